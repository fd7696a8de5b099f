import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";
import { sendFile, type Api } from "../../api/client";
import { count } from "../../frame/legs";
import { Button } from "../../kit/Button";
import { FileInput } from "../../kit/FileInput";
import { Trouble } from "../../kit/Trouble";

const send = (file: File, look: boolean) =>
  sendFile<Api["Arrival"]>(`/api/design-files?look=${look}`, file, () => undefined);

/** A file of designs: what it would add, and then adding it. */
export function DesignFileArrival({ onDone }: { onDone: () => void }) {
  const input = useRef<HTMLInputElement>(null);
  const queries = useQueryClient();
  const look = useMutation({ mutationFn: (file: File) => send(file, true) });
  const add = useMutation({
    mutationFn: (file: File) => send(file, false),
    onSuccess: async () => {
      await queries.invalidateQueries();
      onDone();
    },
  });
  const arrival = look.data;
  return (
    <section
      aria-label="Designs from a file"
      className="flex flex-col items-start gap-2 border-l-[3px] border-baton pl-5"
    >
      <h2 className="font-semibold">From a file</h2>
      <p className="text-soft">
        A file of designs, a set or themes that was written by “Take it along”. What is here stays as it is.
      </p>
      <Button onClick={() => input.current?.click()} disabled={look.isPending || add.isPending}>
        {arrival ? "Choose another file" : "Choose a file"}
      </Button>
      <FileInput
        input={input}
        label="File of designs"
        accept=".json,application/json"
        onFile={(file) => {
          add.reset();
          look.mutate(file);
        }}
      />
      <Trouble error={look.error ?? add.error} />
      {arrival && (
        <>
          <p className="font-semibold">
            It would add {count(arrival.designs.length, "design", "designs")},{" "}
            {count(arrival.themes.length, "theme", "themes")} and{" "}
            {count(arrival.pictures.filter((picture) => picture.isNew).length, "picture", "pictures")}.
          </p>
          <ul className="list-disc pl-5">
            {arrival.designs.map((design) => (
              <li key={design.becomes}>
                {named(design)}
                {design.becomesSet && `, in the set ${design.becomesSet}`}
                <span className="text-soft">, {count(design.blocks, "block", "blocks")}</span>
              </li>
            ))}
            {arrival.themes.map((theme) => (
              <li key={`theme ${theme.becomes}`}>the theme {named(theme)}</li>
            ))}
          </ul>
          <Button look="main" disabled={add.isPending} onClick={() => add.mutate(look.variables)}>
            Add them
          </Button>
        </>
      )}
    </section>
  );
}

function named({ name, becomes }: { name: string; becomes: string }) {
  return name === becomes ? name : `${name}, which becomes “${becomes}”`;
}
