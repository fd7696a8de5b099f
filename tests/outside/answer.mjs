// Reads a message without sender or date with a MIME parser that is not ours. {message: base64} in; subject and text out.
import { readFileSync, writeFileSync } from "node:fs";
import { simpleParser } from "mailparser";

const [input, output] = process.argv.slice(2);
const mail = await simpleParser(Buffer.from(JSON.parse(readFileSync(input, "utf8")).message, "base64"));
writeFileSync(output, JSON.stringify({ subject: mail.subject, text: mail.text }));
