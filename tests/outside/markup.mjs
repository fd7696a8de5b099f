// What packages that are not ours say of rendered signatures: support of markup features in mail programs (an open data set), and the text an
// independent reader takes from the HTML. {features: [slug], html: [text]} in; {support: {slug: {no, partly, dropping: [platform]}}, texts: [text]} out.
import { readFileSync, writeFileSync } from "node:fs";
import { convert } from "html-to-text";

const fewest = 250; // features a family must have been tested with to be counted
const [input, output] = process.argv.slice(2);
const cases = JSON.parse(readFileSync(input, "utf8"));
const { data } = JSON.parse(readFileSync(new URL("node_modules/caniemail/data/caniemail.json", import.meta.url), "utf8"));

const tested = {};
for (const { stats } of data)
  for (const [family, platforms] of Object.entries(stats))
    for (const platform of Object.keys(platforms)) tested[`${family} ${platform}`] = (tested[`${family} ${platform}`] ?? 0) + 1;

const support = {};
for (const slug of cases.features) {
  const feature = data.find((one) => one.slug === slug);
  if (!feature) continue;
  support[slug] = { no: 0, partly: 0, dropping: [] };
  for (const [family, platforms] of Object.entries(feature.stats))
    for (const [platform, versions] of Object.entries(platforms)) {
      if (tested[`${family} ${platform}`] < fewest) continue;
      const latest = Object.values(versions).at(-1)[0];
      if (latest === "n") support[slug].no += 1;
      if (latest === "n" && !support[slug].dropping.includes(platform)) support[slug].dropping.push(platform);
      if (latest === "a") support[slug].partly += 1;
    }
}

const options = { wordwrap: false, selectors: [{ selector: "img", format: "skip" }, { selector: "a", options: { hideLinkHrefIfSameAsText: true, ignoreHref: true } }, { selector: "table", format: "block" }, { selector: "tr", format: "block" }, { selector: "td", format: "inline" }] };
writeFileSync(output, JSON.stringify({ support, texts: cases.html.map((html) => convert(html, options)) }));
