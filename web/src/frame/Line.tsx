import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { useQuery } from "@tanstack/react-query";
import { NavLink } from "react-router";
import { api, take, type Api } from "../api/client";
import { figures, legs, openJoints } from "./legs";
import { useSignOut } from "./session";
import { Wordmark } from "./Wordmark";

type LineProps = { user: Api["SessionUser"]; onFind: () => void; onKeys: () => void };

/** The line at the top: the six legs with their figures, and joints that are open where changes wait. */
export function Line({ user, onFind, onKeys }: LineProps) {
  const line = useQuery({
    queryKey: ["line"],
    queryFn: () => take(api.GET("/api/line")),
    refetchInterval: 3000,
    meta: { followsDrafts: true },
  });
  const texts = line.data ? figures(line.data) : legs.map(() => " ");
  const open = line.data ? openJoints(line.data) : legs.map(() => false);
  return (
    <header className="grid h-14 shrink-0 grid-cols-[140px_1fr_auto] border-b border-line bg-sheet">
      <div className="flex items-center pl-6">
        <Wordmark />
      </div>
      <nav aria-label="Legs" className="grid grid-cols-6">
        {legs.map((leg, index) => (
          <NavLink
            key={leg.path}
            to={leg.path}
            aria-keyshortcuts={`Alt+${leg.key}`}
            className="group relative block pt-2 pl-[22px] focus-visible:-outline-offset-2"
          >
            {({ isActive }) => (
              <>
                {index > 0 && <Joint isOpen={open[index] ?? false} />}
                <b className={`block font-semibold ${isActive ? "text-baton" : "group-hover:underline"}`}>{leg.name}</b>
                <span className="block text-small whitespace-nowrap text-soft">{texts[index]}</span>
                {isActive && <span aria-hidden className="absolute bottom-0 left-[22px] h-[3px] w-[84px] bg-baton" />}
              </>
            )}
          </NavLink>
        ))}
      </nav>
      <div className="flex items-center gap-3 pr-6 pl-3 text-second whitespace-nowrap text-soft">
        <button
          type="button"
          onClick={onFind}
          className="flex min-h-6 items-center gap-2 rounded-[4px] border border-line bg-paper px-2 py-1 hover:text-ink"
        >
          Find <kbd>Ctrl K</kbd>
        </button>
        <button type="button" onClick={onKeys} className="min-h-6 hover:text-ink">
          Keys <kbd>?</kbd>
        </button>
        <OwnMenu user={user} />
      </div>
    </header>
  );
}

function Joint({ isOpen }: { isOpen: boolean }) {
  return (
    <span
      role="img"
      aria-label={isOpen ? "Changes wait before this leg." : "Everything before this leg has been handed on."}
      title={isOpen ? "Changes wait here" : "Handed on"}
      className={`absolute top-[27px] -left-[18px] w-[30px] border-t-2 ${isOpen ? "border-dashed border-ochre" : "border-ink"}`}
    />
  );
}

function OwnMenu({ user }: { user: Api["SessionUser"] }) {
  const signOut = useSignOut();
  return (
    <Menu>
      <MenuButton className="min-h-6 hover:text-ink">{user.name}</MenuButton>
      <MenuItems
        anchor={{ to: "bottom end", gap: 6 }}
        className="z-30 min-w-52 rounded-[4px] border border-field bg-sheet py-1 text-body shadow-lg focus:outline-none"
      >
        <p className="border-b border-line px-3 pb-1 text-small text-soft">
          {user.signInName}, {user.role}
        </p>
        <MenuItem>
          <button
            type="button"
            onClick={() => signOut.mutate()}
            className="block w-full px-3 py-1 text-left data-focus:bg-fold"
          >
            Sign out
          </button>
        </MenuItem>
      </MenuItems>
    </Menu>
  );
}
