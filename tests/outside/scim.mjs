// Answers cases with two packages that are not ours: a filter parser and a PATCH implementation. Reads {filters, patches} from a file, writes the same shape.
import { readFileSync, writeFileSync } from "node:fs";
import { filter, parse } from "scim2-parse-filter";
import { scimPatch } from "scim-patch";

const [input, output] = process.argv.slice(2);
const cases = JSON.parse(readFileSync(input, "utf8"));
const attempt = (work) => {
  try {
    return work();
  } catch (error) {
    return { error: String(error.message ?? error) };
  }
};
writeFileSync(
  output,
  JSON.stringify({
    filters: cases.filters.map(({ text, resources }) => attempt(() => resources.map(filter(parse(text))))),
    patches: cases.patches.map(({ resource, operations }) => attempt(() => scimPatch(structuredClone(resource), operations, { mutateDocument: false }))),
  }),
);
