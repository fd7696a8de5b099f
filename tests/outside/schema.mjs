// Holds documents against a JSON Schema with a validator that is not ours. {schema, documents: [...]} in; {errors: [[text, ...], ...]} out.
import { readFileSync, writeFileSync } from "node:fs";
import { Ajv2020 } from "ajv/dist/2020.js";

const [input, output] = process.argv.slice(2);
const { schema, documents } = JSON.parse(readFileSync(input, "utf8"));
const validate = new Ajv2020({ allErrors: false, strict: false }).compile(schema);
writeFileSync(
  output,
  JSON.stringify({ errors: documents.map((document) => (validate(document) ? [] : validate.errors.map(({ instancePath, message }) => `${instancePath} ${message}`))) }),
);
