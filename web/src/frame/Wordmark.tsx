/** The name with its mark: two batons passing. */
export function Wordmark() {
  return (
    <span className="flex items-center gap-2.5 font-title text-[22px] leading-none font-medium">
      <svg width="20" height="18" viewBox="0 0 20 18" aria-hidden>
        <rect x="0" y="10" width="14" height="5" rx="1" transform="rotate(-32 7 12.5)" className="fill-ink" />
        <rect x="6" y="4" width="14" height="5" rx="1" transform="rotate(-32 13 6.5)" className="fill-baton" />
      </svg>
      Relevo
    </span>
  );
}
