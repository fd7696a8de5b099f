import type { Ref } from "react";

type FileInputProps = { label: string; accept: string; input: Ref<HTMLInputElement>; onFile: (file: File) => void };

/** Picks a file for a button or a menu that clicks it; not seen itself, and passed over by the Tab key. */
export function FileInput({ label, accept, input, onFile }: FileInputProps) {
  return (
    <input
      ref={input}
      type="file"
      accept={accept}
      aria-label={label}
      tabIndex={-1}
      className="sr-only"
      onChange={(event) => {
        const file = event.target.files?.[0];
        if (file) onFile(file);
        // The same file may be picked again.
        event.target.value = "";
      }}
    />
  );
}
