import { Button as HeadlessButton } from "@headlessui/react";
import type { ReactNode } from "react";

const looks = {
  main: "bg-baton text-on-baton font-semibold px-3.5 py-2 hover:brightness-95 disabled:bg-fold disabled:text-soft",
  plain: "border border-field bg-sheet px-3 py-1.5 hover:bg-fold disabled:text-soft disabled:border-line",
  quiet: "px-2 py-1 text-soft hover:text-ink hover:bg-fold disabled:opacity-60",
};

type ButtonProps = {
  children: ReactNode;
  look?: keyof typeof looks;
  onClick?: () => void;
  disabled?: boolean;
  label?: string;
  type?: "button" | "submit";
  title?: string;
};

/** A button. There is one main one on a screen. `label` names it when its content is only a sign. */
export function Button({ children, look = "plain", onClick, disabled, label, type = "button", title }: ButtonProps) {
  return (
    <HeadlessButton
      type={type}
      onClick={onClick}
      disabled={disabled ?? false}
      aria-label={label}
      title={title}
      className={`inline-flex min-h-6 items-center gap-1.5 rounded-[4px] text-body whitespace-nowrap ${looks[look]}`}
    >
      {children}
    </HeadlessButton>
  );
}
