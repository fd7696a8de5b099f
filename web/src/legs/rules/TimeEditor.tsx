import { useQuery } from "@tanstack/react-query";
import { api, take, type Api } from "../../api/client";
import { Ticks } from "../../kit/Ticks";

type Time = Api["TimeCondition"];

/** The time zone of whoever looks at this page. */
export const ownZone = Intl.DateTimeFormat().resolvedOptions().timeZone || "UTC";

const weekdays = [
  { value: "monday", label: "Mon" },
  { value: "tuesday", label: "Tue" },
  { value: "wednesday", label: "Wed" },
  { value: "thursday", label: "Thu" },
  { value: "friday", label: "Fri" },
  { value: "saturday", label: "Sat" },
  { value: "sunday", label: "Sun" },
] as const;

/** A window of time: from, until, days and hours, on the clock of a zone. */
export function TimeEditor({ time, onChange }: { time: Time; onChange: (time: Time) => void }) {
  const zones = useQuery({
    queryKey: ["zones"],
    queryFn: () => take(api.GET("/api/rules/zones")),
    staleTime: Infinity,
  });
  const box = "min-h-8 rounded-[4px] border border-field bg-sheet px-2";
  return (
    <div className="flex flex-col gap-2">
      <div className="flex flex-wrap items-center gap-2">
        <label className="flex items-center gap-1.5">
          from
          <input
            type="datetime-local"
            className={box}
            value={time.from ?? ""}
            onChange={(event) => onChange({ ...time, from: event.target.value })}
          />
        </label>
        <label className="flex items-center gap-1.5">
          until
          <input
            type="datetime-local"
            className={box}
            value={time.until ?? ""}
            onChange={(event) => onChange({ ...time, until: event.target.value })}
          />
        </label>
      </div>
      <Ticks
        label="Days of the week"
        options={weekdays}
        values={time.days ?? []}
        onChange={(days) => onChange({ ...time, days })}
      />
      <div className="flex flex-wrap items-center gap-2">
        <label className="flex items-center gap-1.5">
          between
          <input
            type="time"
            className={box}
            value={time.fromHour ?? ""}
            onChange={(event) => onChange({ ...time, fromHour: event.target.value })}
          />
        </label>
        <label className="flex items-center gap-1.5">
          and
          <input
            type="time"
            className={box}
            value={time.untilHour ?? ""}
            onChange={(event) => onChange({ ...time, untilHour: event.target.value })}
          />
        </label>
        <label className="flex items-center gap-1.5">
          in
          <input
            className={`${box} w-44`}
            list="zones"
            aria-label="Time zone"
            value={time.zone}
            onChange={(event) => onChange({ ...time, zone: event.target.value })}
          />
        </label>
        <datalist id="zones">
          {(zones.data ?? []).map((zone) => (
            <option key={zone} value={zone} />
          ))}
        </datalist>
      </div>
      <p className="text-small text-soft">No day ticked is every day; no time given is always.</p>
    </div>
  );
}
