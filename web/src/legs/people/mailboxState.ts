import type { Api } from "../../api/client";

export type MailboxDraft = {
  address: string;
  facts: Record<string, string>;
  groups: readonly string[];
  senders: readonly { id: string; name: string }[];
};

/** What a form begins with; a new mailbox has a name to fill in. */
export function draftOf(mailbox: Api["MailboxAnswer"] | null): MailboxDraft {
  if (!mailbox) return { address: "", facts: { displayName: "" }, groups: [], senders: [] };
  return {
    address: mailbox.address,
    facts: mailbox.facts,
    groups: mailbox.groups,
    senders: mailbox.senders.filter((sender) => sender.isByHand).map(({ id, name }) => ({ id, name })),
  };
}

export function mailboxRequest(draft: MailboxDraft): Api["MailboxRequest"] {
  return {
    address: draft.address,
    facts: draft.facts,
    groups: [...draft.groups],
    senders: draft.senders.map((sender) => sender.id),
  };
}

/** The facts without one of them. */
export function without(facts: Readonly<Record<string, string>>, name: string): Record<string, string> {
  return Object.fromEntries(Object.entries(facts).filter(([field]) => field !== name));
}

/** Fields a mailbox says something in, in the catalogue's order, and those that may still be added. */
export function splitFields(fields: readonly Api["FieldAnswer"][], facts: Readonly<Record<string, string>>) {
  const possible = fields.filter((field) => field.isOfMailbox);
  return {
    said: possible.filter((field) => field.name in facts),
    silent: possible.filter((field) => !(field.name in facts)),
  };
}
