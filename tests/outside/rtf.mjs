// Reads RTF with a reader that is not ours. {rtf: [text]} in; {documents: [[paragraph, ...]]} out, each paragraph as its text.
import { readFileSync, writeFileSync } from "node:fs";
import parse from "rtf-parser";

const [input, output] = process.argv.slice(2);
const { rtf } = JSON.parse(readFileSync(input, "utf8"));
const read = (text) =>
  new Promise((done, failed) =>
    parse.string(text, (error, document) => {
      if (error) failed(error);
      else done(document.content.map((paragraph) => (paragraph.content ?? [paragraph]).map((span) => span.value).join("")));
    }),
  );
writeFileSync(output, JSON.stringify({ documents: await Promise.all(rtf.map(read)) }));
