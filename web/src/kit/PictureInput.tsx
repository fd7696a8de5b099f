import { useId } from "react";
import { Trouble } from "./Trouble";
import { pictureTypes, useSendPicture } from "./useSendPicture";

/** Where a kept picture is. */
export function pictureAddress(sha256: string) {
  return `/pictures/${sha256}.png`;
}

type PictureInputProps = {
  label: string;
  place: "library" | "field";
  value: string;
  onChange: (sha256: string, size: { width: number; height: number }) => void;
};

/** A picture that is there, and a place to hand in another. */
export function PictureInput({ label, place, value, onChange }: PictureInputProps) {
  const id = useId();
  const send = useSendPicture(place, (kept) => onChange(kept.sha256, kept));
  return (
    <div className="flex flex-col gap-1.5">
      <div className="flex items-center gap-3">
        {value !== "" && <img src={pictureAddress(value)} alt={label} className="size-14 object-contain" />}
        <label
          htmlFor={id}
          className="inline-flex min-h-8 cursor-pointer items-center rounded-[4px] border border-field bg-sheet px-2.5 focus-within:outline-2"
        >
          {send.isPending ? "Taking it" : value === "" ? "Choose a picture" : "Choose another"}
          <input
            id={id}
            type="file"
            aria-label={`Picture for ${label}`}
            accept={pictureTypes}
            className="sr-only"
            onChange={(event) => {
              const file = event.target.files?.[0];
              if (file) send.mutate(file);
            }}
          />
        </label>
      </div>
      <Trouble error={send.error} />
    </div>
  );
}
