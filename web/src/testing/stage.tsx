import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render, screen, waitFor } from "@testing-library/react";
import userEvent, { type UserEvent } from "@testing-library/user-event";
import { useState, type ReactNode } from "react";
import { MemoryRouter, useLocation } from "react-router";
import { expect } from "vitest";

/** Shows part of the screens as somebody would see it at an address, and returns that somebody. */
export function show(part: ReactNode, at = "/"): UserEvent {
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  render(
    <QueryClientProvider client={queries}>
      <MemoryRouter initialEntries={[at]}>
        {part}
        <Place />
      </MemoryRouter>
    </QueryClientProvider>,
  );
  return userEvent.setup({ delay: null });
}

type HeldProps<T> = {
  first: T;
  onChange: (next: T) => void;
  children: (value: T, change: (next: T) => void) => ReactNode;
};

/** Holds a value as whoever uses a part of the screens does, and tells what becomes of it. */
export function Held<T>({ first, onChange, children }: HeldProps<T>) {
  const [value, setValue] = useState(first);
  return children(value, (next) => {
    onChange(next);
    setValue(next);
  });
}

function Place() {
  return <output aria-label="Place">{useLocation().pathname}</output>;
}

/** Waits until somebody is at an address. */
export async function arrive(at: string) {
  await waitFor(() => expect(screen.getByLabelText("Place").textContent).toBe(at));
}

/** Presses a button, by its name or the beginning of it. */
export async function press(user: UserEvent, name: string) {
  await user.click(await screen.findByRole("button", { name: (text) => text === name || text.startsWith(`${name}:`) }));
}

/** Picks one of a choice's options. */
export async function choose(user: UserEvent, label: string, option: string) {
  await press(user, label);
  await user.click(await screen.findByRole("option", { name: option }));
}

/** Writes into a box, in place of what stands there. */
export async function write(user: UserEvent, label: string | RegExp, text: string) {
  const box = await screen.findByLabelText(label);
  await user.clear(box);
  if (text !== "") await user.type(box, text.replace(/[[{]/g, "$&$&"));
}

/** What is said to have gone wrong. */
export async function trouble() {
  return (await screen.findByRole("alert")).textContent;
}
