// Reads lists of recipients with a mail parser that is not ours: {lists: [text]} in, the addresses of each out, those in groups too.
import { readFileSync, writeFileSync } from "node:fs";
import { simpleParser } from "mailparser";

const [input, output] = process.argv.slice(2);
const { lists } = JSON.parse(readFileSync(input, "utf8"));
const addresses = (values) => values.flatMap((value) => (value.group ? addresses(value.group) : [value.address]));
const read = [];
for (const list of lists) read.push(addresses((await simpleParser(`To: ${list}\r\n\r\n`)).to?.value ?? []));
writeFileSync(output, JSON.stringify({ lists: read }));
