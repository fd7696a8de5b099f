import { useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";
import type { Api } from "../../api/client";
import { Button } from "../../kit/Button";
import { FileInput } from "../../kit/FileInput";
import { pictureAddress } from "../../kit/PictureInput";
import { Trouble } from "../../kit/Trouble";
import { pictureTypes, useSendPicture } from "../../kit/useSendPicture";
import { useLibrary } from "./useLibrary";

type LibraryProps = { label: string; value: string; onPick: (picture: Api["LibraryPicture"]) => void };

/** The picture library: one of what is there, or another handed in. */
export function Library({ label, value, onPick }: LibraryProps) {
  const library = useLibrary();
  const queries = useQueryClient();
  const input = useRef<HTMLInputElement>(null);
  const send = useSendPicture("library", (kept, file) => {
    void queries.invalidateQueries({ queryKey: ["pictures"] });
    onPick({ ...kept, name: file.name });
  });
  return (
    <div className="flex flex-col gap-2">
      <div role="radiogroup" aria-label={label} className="flex flex-wrap gap-1.5">
        {library.data?.map((picture) => (
          <button
            key={picture.sha256}
            type="button"
            role="radio"
            aria-checked={picture.sha256 === value}
            title={`${picture.name}, ${picture.width} x ${picture.height}`}
            onClick={() => onPick(picture)}
            className={`size-14 rounded-[4px] border bg-mail-light p-1 ${picture.sha256 === value ? "border-baton outline-1 outline-baton" : "border-line hover:border-field"}`}
          >
            <img src={pictureAddress(picture.sha256)} alt={picture.name} className="size-full object-contain" />
          </button>
        ))}
      </div>
      <div>
        <Button onClick={() => input.current?.click()}>{send.isPending ? "Taking it" : "Add a picture…"}</Button>
      </div>
      <FileInput
        input={input}
        label={`Picture for ${label.toLowerCase()}`}
        accept={pictureTypes}
        onFile={(file) => send.mutate(file)}
      />
      <Trouble error={send.error ?? library.error} />
    </div>
  );
}
