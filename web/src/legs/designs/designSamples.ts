import type { Design } from "./designState";

/** A theme for designs in tests. */
export const plainTheme: Design["theme"] = {
  colours: { name: "#000000", text: "#000000", soft: "#000000", line: "#000000" },
  fontStack: "Arial, Helvetica, sans-serif",
  sizes: { name: 15, text: 13, small: 11 },
  lineHeight: 145,
};
