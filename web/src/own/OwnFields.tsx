import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, take, type Api } from "../api/client";
import { Button } from "../kit/Button";
import { PictureInput } from "../kit/PictureInput";
import { Trouble } from "../kit/Trouble";

/** What an employee may set; nothing when the company opened nothing. */
export function OwnFields() {
  const fields = useQuery({ queryKey: ["own", "fields"], queryFn: () => take(api.GET("/api/own/fields")) });
  if (!fields.data || fields.data.length === 0) return <Trouble error={fields.error} />;
  return (
    <section aria-label="What you may set" className="mt-2">
      <h2 className="font-title text-[20px] leading-7 font-medium">What you may set</h2>
      <p className="mb-3 text-soft">Everything else in your signature is set by your company.</p>
      <ul>
        {fields.data.map((field) => (
          <OwnField key={`${field.name}${field.own ?? ""}${field.waiting ?? ""}`} field={field} />
        ))}
      </ul>
    </section>
  );
}

function OwnField({ field }: { field: Api["OpenField"] }) {
  const queries = useQueryClient();
  const [value, setValue] = useState(field.waiting ?? field.own ?? field.shown);
  const set = useMutation({
    mutationFn: (next: string | null) =>
      take(api.PUT("/api/own/fields/{name}", { params: { path: { name: field.name } }, body: { value: next } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["own"] }),
  });
  const box = "w-72 rounded-[4px] border border-field bg-sheet px-2.5 py-1";
  return (
    <li className="border-b border-line py-2">
      <form
        className="flex flex-wrap items-center gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          set.mutate(value);
        }}
      >
        {field.kind === "picture" ? (
          <div className="flex items-center gap-3">
            <span className="w-36 text-soft">{field.label}</span>
            <PictureInput label={field.label} place="field" value={value} onChange={setValue} />
          </div>
        ) : (
          <label className="flex items-center gap-3">
            <span className="w-36 text-soft">{field.label}</span>
            {field.choices.length > 0 ? (
              <select value={value} onChange={(event) => setValue(event.target.value)} className={box}>
                <option value="">nothing</option>
                {field.choices.map((choice) => (
                  <option key={choice}>{choice}</option>
                ))}
              </select>
            ) : (
              <input value={value} onChange={(event) => setValue(event.target.value)} className={box} />
            )}
          </label>
        )}
        <Button type="submit" disabled={set.isPending}>
          {field.needsApproval ? "Ask for it" : "Set it"}
        </Button>
        {field.own !== null && (
          <Button look="quiet" disabled={set.isPending} onClick={() => set.mutate(null)}>
            As the company says
          </Button>
        )}
        {field.isWaiting && <span className="text-second text-ochre">waits for your administrator</span>}
      </form>
      <Trouble error={set.error} />
    </li>
  );
}
