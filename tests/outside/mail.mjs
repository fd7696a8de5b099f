// Reads a message with a MIME parser that is not ours. {message: base64} in; subject, addresses, text, html, attachments and defects out.
import { readFileSync, writeFileSync } from "node:fs";
import { simpleParser } from "mailparser";

const [input, output] = process.argv.slice(2);
const { message } = JSON.parse(readFileSync(input, "utf8"));
const mail = await simpleParser(Buffer.from(message, "base64"), { skipImageLinks: true });
writeFileSync(
  output,
  JSON.stringify({
    subject: mail.subject,
    from: mail.from.value[0],
    to: mail.to.value[0],
    text: mail.text,
    html: mail.html,
    pictures: mail.attachments.map(({ cid, contentType, content, contentDisposition }) => ({ cid, contentType, contentDisposition, bytes: content.toString("base64") })),
  }),
);
