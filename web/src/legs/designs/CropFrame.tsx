import { useRef, type KeyboardEvent, type PointerEvent } from "react";
import { Button } from "../../kit/Button";
import { pictureAddress } from "../../kit/PictureInput";
import { heightOf, middle, moved, widened, type Crop, type Filled } from "./cropState";

type CropFrameProps = {
  sha256: string;
  name: string;
  picture: Filled;
  crop: Crop | null;
  onChange: (crop: Crop | null) => void;
};

const step = 10; // thousandths a key moves

/** The whole picture with a frame about the part that is shown: dragged, or moved with the arrow keys and sized with plus and minus. */
export function CropFrame({ sha256, name, picture, crop, onChange }: CropFrameProps) {
  const area = useRef<HTMLDivElement>(null);
  const from = useRef<{ x: number; y: number; crop: Crop; isSizing: boolean } | null>(null);
  const shown = crop ?? middle(picture);
  const press = (event: PointerEvent, isSizing: boolean) => {
    event.preventDefault();
    event.stopPropagation();
    event.currentTarget.setPointerCapture(event.pointerId);
    from.current = { x: event.clientX, y: event.clientY, crop: shown, isSizing };
  };
  const drag = (event: PointerEvent) => {
    const room = area.current?.getBoundingClientRect();
    if (!from.current || !room) return;
    const right = ((event.clientX - from.current.x) / room.width) * 1000;
    const down = ((event.clientY - from.current.y) / room.height) * 1000;
    onChange(
      from.current.isSizing
        ? widened(from.current.crop, picture, right)
        : moved(from.current.crop, picture, right, down),
    );
  };
  const release = () => {
    from.current = null;
  };
  const key = (event: KeyboardEvent) => {
    const steps: Record<string, () => Crop> = {
      ArrowLeft: () => moved(shown, picture, -step, 0),
      ArrowRight: () => moved(shown, picture, step, 0),
      ArrowUp: () => moved(shown, picture, 0, -step),
      ArrowDown: () => moved(shown, picture, 0, step),
      "+": () => widened(shown, picture, step),
      "-": () => widened(shown, picture, -step),
    };
    const next = event.altKey || event.ctrlKey ? undefined : steps[event.key];
    if (!next) return;
    event.preventDefault();
    onChange(next());
  };
  const percent = (thousandths: number) => `${thousandths / 10}%`;
  return (
    <div className="flex flex-col gap-1.5">
      <div ref={area} className="relative overflow-hidden rounded-[4px] border border-line bg-mail-light select-none">
        <img src={pictureAddress(sha256)} alt={name} draggable={false} className="block w-full" />
        <div
          role="application"
          tabIndex={0}
          aria-label={`Part of ${name} that is shown: ${Math.round(shown.width / 10)} % of its width from ${Math.round(shown.left / 10)} % on. Arrow keys move it, plus and minus size it.`}
          onPointerDown={(event) => press(event, false)}
          onPointerMove={drag}
          onPointerUp={release}
          onKeyDown={key}
          className="absolute cursor-move touch-none border-2 border-baton shadow-[0_0_0_999px_rgb(from_var(--color-ink)_r_g_b_/_45%)]"
          style={{
            left: percent(shown.left),
            top: percent(shown.top),
            width: percent(shown.width),
            height: percent(heightOf(shown, picture)),
          }}
        >
          <div
            aria-hidden
            onPointerDown={(event) => press(event, true)}
            onPointerMove={drag}
            onPointerUp={release}
            className="absolute right-0 bottom-0 size-4 cursor-nwse-resize touch-none bg-baton"
          />
        </div>
      </div>
      {crop && (
        <div>
          <Button look="quiet" onClick={() => onChange(null)}>
            Show the middle
          </Button>
        </div>
      )}
    </div>
  );
}
