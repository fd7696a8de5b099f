import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, take } from "../../api/client";
import { Button } from "../../kit/Button";
import { Trouble } from "../../kit/Trouble";
import { PersonPick } from "../../lens/PersonPick";

/** Adds a computer; its agent's token is shown once. */
export function AddComputer({ onClose }: { onClose: () => void }) {
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const [person, setPerson] = useState<{ id: string; name: string } | null>(null);
  const add = useMutation({
    mutationFn: (body: { name: string; personId: string }) => take(api.POST("/api/computers", { body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["rollout"] }),
  });
  if (add.data)
    return (
      <section
        aria-label="New computer"
        className="flex flex-col items-start gap-3 self-start border-l-[3px] border-baton pl-5"
      >
        <h2 className="font-semibold">{name} is added</h2>
        <p className="text-soft">Give its agent this token. It is shown this once and kept only as a hash.</p>
        <code className="w-full rounded-[4px] border border-field bg-sheet p-2 text-second break-all">
          {add.data.token}
        </code>
        <p className="text-soft">relevo-agent --server {location.origin} --folder FOLDER --token-file FILE</p>
        <Button onClick={onClose}>Done</Button>
      </section>
    );
  return (
    <form
      aria-label="New computer"
      className="flex flex-col items-start gap-3 self-start border-l-[3px] border-baton pl-5"
      onSubmit={(event) => {
        event.preventDefault();
        if (person) add.mutate({ name, personId: person.id });
      }}
    >
      <h2 className="font-semibold">Add a computer</h2>
      <label className="flex w-full flex-col gap-1">
        Name
        <input
          value={name}
          required
          maxLength={200}
          onChange={(event) => setName(event.target.value)}
          className="rounded-[4px] border border-field bg-sheet px-2.5 py-1.5"
        />
      </label>
      <div className="flex w-full flex-col gap-1">
        <span>Whose</span>
        <PersonPick label="Whose computer" look="box" name={person?.name ?? ""} onPick={setPerson} />
      </div>
      <Trouble error={add.error} />
      <div className="flex gap-2">
        <Button type="submit" disabled={!person || !name.trim() || add.isPending}>
          Add
        </Button>
        <Button look="quiet" onClick={onClose}>
          Put away
        </Button>
      </div>
    </form>
  );
}
