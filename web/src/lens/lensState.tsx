import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { createContext, use, useMemo, useState, type ReactNode } from "react";
import { api, take, type Api } from "../api/client";

export type Occasion = Api["Occasion"];

/** What the screens look through. A null person is the first one by name. */
export type Lens = { person: string | null; address: string | null; occasion: Occasion };

type LensContext = {
  lens: Lens;
  look: (change: Partial<Lens>) => void;
  isOpen: boolean;
  setOpen: (open: boolean) => void;
};

const Context = createContext<LensContext | null>(null);

/** The lens and how to turn it. Changing it never changes data. */
export function useLens(): LensContext {
  const lens = use(Context);
  if (!lens) throw new Error("useLens stands outside its provider.");
  return lens;
}

export function LensProvider({ children }: { children: ReactNode }) {
  const [lens, setLens] = useState<Lens>({ person: null, address: null, occasion: "new" });
  const [isOpen, setOpen] = useState(false);
  const value = useMemo<LensContext>(
    () => ({
      lens,
      look: (change) =>
        setLens((before) => ({ ...before, ...(change.person === undefined ? {} : { address: null }), ...change })),
      isOpen,
      setOpen,
    }),
    [lens, isOpen],
  );
  return <Context value={value}>{children}</Context>;
}

/** What comes out for the lens, drafts included. `design`: look at this design whatever the rules say. */
export function useLensAnswer(lens: Lens, design?: string) {
  return useQuery({
    queryKey: ["lens", lens, design ?? null],
    queryFn: () =>
      take(
        api.GET("/api/lens", {
          params: {
            query: {
              ...(lens.person && { person: lens.person }),
              ...(lens.address && { address: lens.address }),
              ...(design && { design }),
              occasion: lens.occasion,
            },
          },
        }),
      ),
    placeholderData: keepPreviousData,
    meta: { followsDrafts: true },
  });
}
