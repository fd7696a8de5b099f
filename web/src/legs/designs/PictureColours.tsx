import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, take } from "../../api/client";
import { Button } from "../../kit/Button";
import { Trouble } from "../../kit/Trouble";
import type { Design } from "./designState";
import { Library } from "./Library";

type Colours = Design["theme"]["colours"];
type PictureColoursProps = { onTake: (colours: Colours) => void; onPick: (colour: string) => void };

/** Colours from a picture of the library: all roles at once, or one of its main colours for names. */
export function PictureColours({ onTake, onPick }: PictureColoursProps) {
  const [isOpen, setOpen] = useState(false);
  const [picture, setPicture] = useState("");
  const proposal = useQuery({
    queryKey: ["picture colours", picture],
    queryFn: () => take(api.GET("/api/pictures/{sha256}/colours", { params: { path: { sha256: picture } } })),
    enabled: picture !== "",
    staleTime: Infinity,
  });
  if (!isOpen)
    return (
      <div>
        <Button onClick={() => setOpen(true)}>From a picture…</Button>
      </div>
    );
  return (
    <div className="flex flex-col gap-2 rounded-[4px] border border-line p-2">
      <Library label="Picture to take colours from" value={picture} onPick={(one) => setPicture(one.sha256)} />
      <Trouble error={proposal.error} />
      {proposal.data && (
        <>
          <p className="text-second text-soft">Its main colours; one picked becomes the colour of names.</p>
          <div className="flex flex-wrap gap-1.5">
            {proposal.data.palette.map((colour) => (
              <button
                key={colour}
                type="button"
                aria-label={`Names in ${colour}`}
                title={colour}
                onClick={() => onPick(colour)}
                className="size-7 rounded-[4px] border border-field"
                style={{ background: colour }}
              />
            ))}
          </div>
          <p className="text-second">
            {(["name", "text", "soft", "line"] as const).map((role) => (
              <span key={role} className="mr-3 inline-flex items-center gap-1">
                <span
                  aria-hidden
                  className="inline-block size-3 rounded-[2px] border border-line"
                  style={{ background: proposal.data.colours[role] }}
                />
                {role}
              </span>
            ))}
          </p>
          <div className="flex gap-2">
            <Button onClick={() => onTake(proposal.data.colours)}>Take these colours</Button>
            <Button look="quiet" onClick={() => setOpen(false)}>
              Close
            </Button>
          </div>
        </>
      )}
    </div>
  );
}
