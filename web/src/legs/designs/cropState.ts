import type { Api } from "../../api/client";

/** A part of a picture: left and width in thousandths of its width, top in thousandths of its height. */
export type Crop = NonNullable<Api["BlockPicture"]["crop"]>;

/** A picture in pixels, and the height of what it fills for each pixel of width. */
export type Filled = { width: number; height: number; ratio: number };

const least = 20;

/** How high a part of that width is, in thousandths of the picture's height. */
export function heightOf(crop: Crop, picture: Filled) {
  return (crop.width * picture.width * picture.ratio) / picture.height;
}

/** The widest part there is. */
function widest(picture: Filled) {
  return Math.min(1000, Math.floor((1000 * picture.height) / (picture.width * picture.ratio)));
}

/** As much of the middle as fits: what is shown when nothing was chosen. */
export function middle(picture: Filled): Crop {
  return within({ left: 0, top: 0, width: widest(picture) }, picture, "middle");
}

/** The part moved by thousandths, kept within the picture. */
export function moved(crop: Crop, picture: Filled, right: number, down: number): Crop {
  return within({ ...crop, left: crop.left + right, top: crop.top + down }, picture, "place");
}

/** The part made wider or narrower by thousandths about its left upper corner. */
export function widened(crop: Crop, picture: Filled, by: number): Crop {
  return within({ ...crop, width: crop.width + by }, picture, "place");
}

function within(crop: Crop, picture: Filled, stands: "middle" | "place"): Crop {
  const width = Math.round(Math.max(least, Math.min(crop.width, widest(picture))));
  const rest = 1000 - width;
  const above = Math.max(0, 1000 - heightOf({ ...crop, width }, picture));
  const clamp = (value: number, most: number) => Math.max(0, Math.min(999, Math.floor(Math.min(value, most))));
  return stands === "middle"
    ? { left: clamp(rest / 2, rest), top: clamp(above / 2, above), width }
    : { left: clamp(crop.left, rest), top: clamp(crop.top, above), width };
}
