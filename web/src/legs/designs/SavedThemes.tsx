import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { X } from "lucide-react";
import { useState } from "react";
import { api, take } from "../../api/client";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { Trouble } from "../../kit/Trouble";
import type { Design } from "./designState";
import { Row, TextInput } from "./Row";

type Theme = Design["theme"];

/** Themes that were kept: take one, or keep this one under a name. */
export function SavedThemes({ theme, onTake }: { theme: Theme; onTake: (theme: Theme) => void }) {
  const queries = useQueryClient();
  const themes = useQuery({ queryKey: ["themes"], queryFn: () => take(api.GET("/api/themes")) });
  const [name, setName] = useState("");
  const isFresh = () => queries.invalidateQueries({ queryKey: ["themes"] });
  const keep = useMutation({
    mutationFn: () => take(api.POST("/api/themes", { body: { name, theme } })),
    onSuccess: () => {
      setName("");
      return isFresh();
    },
  });
  const remove = useMutation({
    mutationFn: (id: string) => take(api.DELETE("/api/themes/{id}", { params: { path: { id } } })),
    onSuccess: isFresh,
  });
  const same = themes.data?.find((kept) => JSON.stringify(kept.theme) === JSON.stringify(theme));
  return (
    <>
      <Row label="Theme">
        <div className="flex gap-1">
          <Choice
            label="Kept theme"
            value={same?.id ?? ""}
            options={[
              { value: "", label: "of its own" },
              ...(themes.data ?? []).map((kept) => ({ value: kept.id, label: kept.name })),
            ]}
            onChange={(id) => {
              const kept = themes.data?.find((one) => one.id === id);
              if (kept) onTake(kept.theme);
            }}
          />
          {same && (
            <Button look="quiet" label={`Throw away the theme ${same.name}`} onClick={() => remove.mutate(same.id)}>
              <X size={16} aria-hidden />
            </Button>
          )}
        </div>
      </Row>
      {!same && (
        <Row label="Keep it as">
          <div className="flex gap-1">
            <TextInput label="Name to keep the theme under" value={name} placeholder="a name" onChange={setName} />
            <Button disabled={name.trim() === "" || keep.isPending} onClick={() => keep.mutate()}>
              Keep
            </Button>
          </div>
        </Row>
      )}
      {same && (
        <p className="text-second">
          <a className="inline-block min-h-6 underline" href={`/api/design-files?theme=${same.id}`} download>
            Take the theme along (.json)
          </a>
        </p>
      )}
      <Trouble error={keep.error ?? remove.error ?? themes.error} />
    </>
  );
}
