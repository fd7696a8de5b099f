// Drives a JMAP server with a client that is not ours. {sessionUrl, token, account} in; what each call gave out.
import { readFileSync, writeFileSync } from "node:fs";
import { JamClient } from "jmap-jam";

const [input, output] = process.argv.slice(2);
const { sessionUrl, token, account } = JSON.parse(readFileSync(input, "utf8"));
const using = ["urn:ietf:params:jmap:submission"];
const jam = new JamClient({ sessionUrl, bearerToken: token });
const primary = await jam.getPrimaryAccount();
const [read] = await jam.api.Identity.get({ accountId: account, ids: null }, { using });
const first = read.list[0];
const [set] = await jam.api.Identity.set({ accountId: account, ifInState: read.state, update: { [first.id]: { htmlSignature: "<b>Mia</b>", textSignature: "Mia" } } }, { using });
const [changes] = await jam.api.Identity.changes({ accountId: account, sinceState: read.state }, { using });
const [again] = await jam.api.Identity.get({ accountId: account, ids: [first.id, "nobody"], properties: ["htmlSignature"] }, { using });
const [refused] = await jam.api.Identity.set({ accountId: account, update: { [first.id]: { email: "other@brackenfold.example" }, nobody: { name: "x" } }, create: { x: { email: "x@brackenfold.example" } }, destroy: [first.id] }, { using });
const stale = await jam.api.Identity.set({ accountId: account, ifInState: read.state, update: { [first.id]: { name: "x" } } }, { using }).then(
  () => "taken",
  (problem) => problem.type ?? String(problem),
);
const [together] = await jam.requestMany((request) => {
  const got = request.Identity.get({ accountId: account, ids: null });
  return { got, same: request.Identity.get({ accountId: account, ids: got.$ref("/list/*/id") }) };
}, { using });
writeFileSync(output, JSON.stringify({ primary, read, set, changes, again, refused, stale, same: together.same }));
