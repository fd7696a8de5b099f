import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { useRef } from "react";
import { FileInput } from "../../kit/FileInput";
import { Trouble } from "../../kit/Trouble";
import { pictureTypes, useSendPicture } from "../../kit/useSendPicture";
import { logoBlock, newBlock, newBlocks, portraitBlock, shownSize, type Block } from "./designState";
import type { Fields } from "./blockForm";
import { useLibrary } from "./useLibrary";

type AddBlockProps = { fields: Fields; where: string; onAdd: (block: Block) => void };

/** A menu of the kinds of blocks; a picture is picked first. */
export function AddBlock({ fields, where, onAdd }: AddBlockProps) {
  const input = useRef<HTMLInputElement>(null);
  const logo = useLibrary().data?.at(-1);
  const send = useSendPicture("library", (kept, file) =>
    onAdd({
      kind: "picture",
      sha256: kept.sha256,
      ...shownSize(kept),
      altText: file.name.replace(/\.[^.]*$/, "") || "Picture",
      link: "",
    }),
  );
  const item = "block w-full px-3 py-1 text-left data-focus:bg-fold";
  return (
    <div className="mt-2">
      <Menu>
        <MenuButton className="min-h-8 w-full rounded-[4px] border border-field bg-sheet px-2.5 py-1 text-left hover:bg-fold">
          {send.isPending ? "Taking the picture" : "Add a block"}
        </MenuButton>
        <MenuItems
          anchor={{ to: "bottom start", gap: 4 }}
          className="z-30 min-w-44 rounded-[4px] border border-field bg-sheet py-1 shadow-lg focus:outline-none"
        >
          {newBlocks.map(({ kind, label }) => (
            <MenuItem key={kind}>
              <button type="button" className={item} onClick={() => onAdd(newBlock(kind, fields))}>
                {label}
              </button>
            </MenuItem>
          ))}
          {logo && (
            <MenuItem>
              <button type="button" className={item} onClick={() => onAdd(logoBlock(logo))}>
                Logo
              </button>
            </MenuItem>
          )}
          <MenuItem>
            <button type="button" className={item} onClick={() => onAdd(portraitBlock)}>
              Portrait
            </button>
          </MenuItem>
          <MenuItem>
            <button type="button" className={item} onClick={() => input.current?.click()}>
              Picture…
            </button>
          </MenuItem>
        </MenuItems>
      </Menu>
      <p className="mt-1 text-small text-soft">{where}</p>
      <FileInput input={input} label="Picture to add" accept={pictureTypes} onFile={(file) => send.mutate(file)} />
      <Trouble error={send.error} />
    </div>
  );
}
