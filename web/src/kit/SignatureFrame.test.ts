import { expect, test } from "vitest";
import { recoloured } from "./SignatureFrame";

test("dark mail turns the colours of texts over and leaves grounds and lines", () => {
  const html =
    '<td bgcolor="#1f6b52" style="background-color:#1f6b52;color:#1f6b52"><a style="color:#ABCDEF">x</a><i style="border-top:1px solid #1f6b52">';
  expect(recoloured(html, { "#1f6b52": "#88ccaa" })).toBe(
    '<td bgcolor="#1f6b52" style="background-color:#1f6b52;color:#88ccaa"><a style="color:#ABCDEF">x</a><i style="border-top:1px solid #1f6b52">',
  );
});
