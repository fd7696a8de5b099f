// Gives domains their ASCII form with a package that is not ours (Unicode UTS 46, without the transitional mapping): {domains: [text]} in, the form of each or null out.
import { readFileSync, writeFileSync } from "node:fs";
import tr46 from "tr46";

const [input, output] = process.argv.slice(2);
const { domains } = JSON.parse(readFileSync(input, "utf8"));
const options = { transitionalProcessing: false, useSTD3ASCIIRules: false, checkHyphens: true, verifyDNSLength: true };
writeFileSync(output, JSON.stringify({ forms: domains.map((domain) => tr46.toASCII(domain, options)) }));
