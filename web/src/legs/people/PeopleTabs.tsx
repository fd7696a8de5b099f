import { Link, useLocation } from "react-router";

const tabs = [
  { to: "/people", label: "Everybody" },
  { to: "/people/sources", label: "Sources and runs" },
  { to: "/people/company", label: "Company facts" },
  { to: "/people/mailboxes", label: "Shared mailboxes" },
  { to: "/people/fields", label: "Fields" },
];

/** The pages of the leg. */
export function PeopleTabs() {
  const { pathname } = useLocation();
  const current = tabs.slice(1).find((tab) => pathname.startsWith(tab.to)) ?? tabs[0];
  return (
    <nav aria-label="People" className="flex gap-5 border-b border-line">
      {tabs.map((tab) => (
        <Link
          key={tab.to}
          to={tab.to}
          aria-current={tab === current ? "page" : undefined}
          className={`-mb-px border-b-2 pb-1.5 ${tab === current ? "border-ink font-semibold" : "border-transparent text-soft hover:text-ink"}`}
        >
          {tab.label}
        </Link>
      ))}
    </nav>
  );
}
