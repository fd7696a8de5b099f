// Reads what Relevo writes with two packages that are not ours: a vCard reader and an LDIF reader. {cards: [text], ldif: text} in, what they understood out.
import { readFileSync, writeFileSync } from "node:fs";
import ICAL from "ical.js";
import ldif from "ldif";

const [input, output] = process.argv.slice(2);
const cases = JSON.parse(readFileSync(input, "utf8"));
const properties = (text) => ICAL.parse(text)[1].map(([property, , , value]) => ({ property: property.toUpperCase(), value }));
const entries = ldif.parse(cases.ldif).entries.map(({ dn, attributes }) => ({ dn, values: attributes.map(({ attribute, value }) => [attribute.attribute, value.value]) }));
writeFileSync(output, JSON.stringify({ cards: cases.cards.map(properties), ldif: entries }));
