import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { createContext, use, useMemo, useState, type ReactNode } from "react";
import { api, take, type Api } from "../api/client";

export type Occasion = Api["Occasion"];

/** What the screens look through. A null person is the first one by name; the moment is empty for now, else as RFC 3339 writes it. */
export type Lens = {
  person: string | null;
  address: string | null;
  occasion: Occasion;
  audience: string;
  client: string;
  moment: string;
};

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
  const [lens, setLens] = useState<Lens>({
    person: null,
    address: null,
    occasion: "new",
    audience: "outside",
    client: "desk-app",
    moment: "",
  });
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

/** What comes out for the lens, drafts included. `design`: look at this design whatever the rules say; `isMarked`: with its blocks named. */
export function useLensAnswer(lens: Lens, design?: string, isMarked = false) {
  return useQuery({
    queryKey: ["lens", lens, design ?? null, isMarked],
    queryFn: () =>
      take(
        api.GET("/api/lens", {
          params: {
            query: {
              ...(lens.person && { person: lens.person }),
              ...(lens.address && { address: lens.address }),
              ...(design && { design }),
              ...(isMarked && { marked: true }),
              occasion: lens.occasion,
              audience: lens.audience,
              client: lens.client,
              ...(lens.moment && { moment: lens.moment }),
            },
          },
        }),
      ),
    placeholderData: keepPreviousData,
    meta: { followsDrafts: true },
  });
}
