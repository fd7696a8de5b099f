import { useRef, useState, type DragEvent, type ReactNode } from "react";
import { Button } from "../../kit/Button";
import { FileInput } from "../../kit/FileInput";

/** A page that takes a directory's file dropped anywhere on it. */
export function FileDrop({ onFile, children }: { onFile: (file: File) => void; children: ReactNode }) {
  const [isOver, setOver] = useState(false);
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    const file = event.dataTransfer.files[0];
    if (file) onFile(file);
  };
  return (
    <div
      className={`relative h-full ${isOver ? "outline-2 -outline-offset-8 outline-baton outline-dashed" : ""}`}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={drop}
    >
      {children}
    </div>
  );
}

type FilePickProps = { label?: string; look?: "main" | "quiet"; onFile: (file: File) => void };

/** Picks a directory's file. */
export function FilePick({ label = "Add from a file", look = "main", onFile }: FilePickProps) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button look={look} onClick={() => input.current?.click()}>
        {label}
      </Button>
      <FileInput
        input={input}
        label="Directory file"
        accept=".ldif,.ldf,.csv,.tsv,.tab,.txt,text/plain,text/csv"
        onFile={onFile}
      />
    </>
  );
}

/** How much of a file has gone. */
export function FileProgress({ share }: { share: number | null }) {
  if (share === null) return null;
  return (
    <label className="flex items-center gap-3 text-second text-soft">
      {share < 1 ? "Sending the file" : "Reading the file"}
      <progress value={share < 1 ? share : undefined} className="h-1.5 w-64 accent-baton" />
    </label>
  );
}
