import type { ReactNode } from "react";

type PageProps = { title: string; lede: ReactNode; action?: ReactNode; children: ReactNode };

/** A leg's page: what this is, the one main action, then the work. */
export function Page({ title, lede, action, children }: PageProps) {
  return (
    <div className="flex h-full min-h-0 flex-col gap-4 px-6 pt-4 pb-3.5">
      <header className="flex items-start justify-between gap-6">
        <div className="min-w-0">
          <h1 className="truncate font-title text-title font-medium">{title}</h1>
          <p className="mt-0.5 text-soft">{lede}</p>
        </div>
        <div className="flex shrink-0 gap-2">{action}</div>
      </header>
      <div className="min-h-0 flex-1">{children}</div>
    </div>
  );
}

/** What belongs here, and the first step, while there is nothing. */
export function Empty({ children, step }: { children: ReactNode; step?: ReactNode }) {
  return (
    <div className="flex max-w-xl flex-col items-start gap-3 self-start border-l-[3px] border-line py-2 pl-5">
      <div className="text-soft">{children}</div>
      {step}
    </div>
  );
}
