import { expect, test } from "vitest";
import type { Api } from "../../api/client";
import { draftOf, mailboxRequest, splitFields, without } from "./mailboxState";

const mailbox: Api["MailboxAnswer"] = {
  id: "m",
  address: "reception@brackenfold.example",
  facts: { displayName: "Reception", title: "" },
  groups: ["Front desk"],
  senders: [
    { id: "ann", name: "Ann", isByHand: true },
    { id: "joel", name: "Joel", isByHand: false },
  ],
  revision: 3,
};

test("a form keeps people named by hand and not those whom a group brings", () => {
  expect(mailboxRequest(draftOf(mailbox))).toEqual({
    address: "reception@brackenfold.example",
    facts: { displayName: "Reception", title: "" },
    groups: ["Front desk"],
    senders: ["ann"],
  });
});

test("a new mailbox asks for a name", () => {
  expect(draftOf(null).facts).toEqual({ displayName: "" });
});

test("an explicit blank is said, and can be taken out", () => {
  const field = (name: string, isOfMailbox: boolean) => ({ name, isOfMailbox }) as Api["FieldAnswer"];
  const fields = [field("displayName", true), field("title", true), field("mobile", true), field("mail", false)];
  const { said, silent } = splitFields(fields, mailbox.facts);
  expect(said.map((one) => one.name)).toEqual(["displayName", "title"]);
  expect(silent.map((one) => one.name)).toEqual(["mobile"]);
  expect(without(mailbox.facts, "title")).toEqual({ displayName: "Reception" });
});
