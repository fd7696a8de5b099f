import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { useQuery } from "@tanstack/react-query";
import { useRef } from "react";
import { api, ifMatch, take, type Api } from "../../api/client";
import { count } from "../../frame/legs";
import { Trouble } from "../../kit/Trouble";
import { useLens } from "../../lens/lensState";
import { insertedField, newAnswer } from "./answerState";
import { DocumentPage, LostDraft, TakeOut } from "./DocumentPage";
import { useFields } from "./useDesign";
import { useDocument, type DocumentDoor } from "./useDocument";

type Answer = Api["ReadyAnswer"];

/** Ready-made answers: texts with fields and the subject each suggests. */
export function Answers() {
  const answers = useQuery({
    queryKey: ["answers"],
    queryFn: () => take(api.GET("/api/answers")),
    meta: { followsDrafts: true },
  });
  return (
    <DocumentPage
      title="What is ready to be said"
      noun="ready answer"
      label="Ready answers"
      address="/designs/answers"
      list={answers}
      queryKey="answers"
      lede={(all) => {
        const edited = all.filter((one) => one.isEdited).length;
        return `${count(all.length, "ready answer", "ready answers")}, ${edited === 0 ? "all as published" : `${edited} not yet published`}.`;
      }}

      add={(taken) => take(api.POST("/api/answers", { body: newAnswer(taken) }))}
      columns="grid-cols-[230px_1fr_340px]"
      empty={
        <>
          {" "}
          A ready answer is a text that people send again and again, with the sender’s own facts in it. It is kept and
          published like a design.
        </>
      }
    >
      {(shown) => (
        <>
          <AnswerEditor key={shown} id={shown} />
        </>
      )}
    </DocumentPage>
  );
}

const door: DocumentDoor<Answer> = {
  kind: "answer",
  read: (id) => take(api.GET("/api/answers/{id}", { params: { path: { id } } })),
  save: (id, body, revision) =>
    take(api.PUT("/api/answers/{id}", { params: { path: { id } }, body, ...ifMatch(revision) })),
};

function AnswerEditor({ id }: { id: string }) {
  const { draft: answer, error, failure, reload, change } = useDocument(door, id);
  const fields = useFields();
  const text = useRef<HTMLTextAreaElement>(null);
  if (!answer) return <Trouble error={error} />;
  const { value } = answer;
  const insert = (field: string) => {
    const at = text.current?.selectionStart ?? value.text.length;
    const next = insertedField(value.text, at, text.current?.selectionEnd ?? at, field);
    change("put a field in", { ...value, text: next.text }, "");
    requestAnimationFrame(() => {
      text.current?.focus();
      text.current?.setSelectionRange(next.caret, next.caret);
    });
  };
  const box = "w-full rounded-[4px] border border-field bg-sheet px-2.5 py-1";
  return (
    <>
      <div className="flex min-h-0 flex-col gap-2 overflow-y-auto px-1">
        <LostDraft failure={failure} reload={reload} />
        <label className="flex flex-col gap-0.5">
          <span className="text-second text-soft">Name</span>
          <input
            className={`${box} min-h-8`}
            value={value.name}
            onChange={(event) => change("name an answer", { ...value, name: event.target.value }, "name")}
          />
        </label>
        <label className="flex flex-col gap-0.5">
          <span className="text-second text-soft">Subject it suggests</span>
          <input
            className={`${box} min-h-8`}
            value={value.subject}
            placeholder="none"
            onChange={(event) => change("subject of an answer", { ...value, subject: event.target.value }, "subject")}
          />
        </label>
        <label className="flex min-h-0 flex-1 flex-col gap-0.5">
          <span className="text-second text-soft">Text</span>
          <textarea
            ref={text}
            className={`${box} min-h-56 flex-1 resize-none leading-relaxed`}
            value={value.text}
            onChange={(event) => change("text of an answer", { ...value, text: event.target.value }, "text")}
          />
        </label>
        <div className="flex items-center gap-2">
          <Menu>
            <MenuButton className="min-h-8 rounded-[4px] border border-field bg-sheet px-2.5">
              Put a field in
            </MenuButton>
            <MenuItems
              anchor={{ to: "top start", gap: 4 }}
              className="z-30 max-h-72 min-w-44 overflow-y-auto rounded-[4px] border border-field bg-sheet py-1 text-body shadow-lg focus:outline-none"
            >
              {(fields.data ?? [])
                .filter((field) => field.kind !== "picture")
                .map((field) => (
                  <MenuItem key={field.name}>
                    <button
                      type="button"
                      onClick={() => insert(field.name)}
                      className="block w-full px-3 py-1 text-left data-focus:bg-fold"
                    >
                      {field.label}
                    </button>
                  </MenuItem>
                ))}
            </MenuItems>
          </Menu>
          <TakeOut
            address="/designs/answers"
            queryKey="answers"
            remove={() =>
              take(api.DELETE("/api/answers/{id}", { params: { path: { id } }, ...ifMatch(answer.revision) }))
            }
          />
        </div>
        <p className="text-small text-soft">
          A field stands in braces, like {"{telephone}"}. A line whose fields are all empty disappears.
        </p>
      </div>
      <Written id={id} />
    </>
  );
}

/** The answer as the lens's person would send it. */
function Written({ id }: { id: string }) {
  const { lens } = useLens();
  const query = { ...(lens.person && { person: lens.person }), ...(lens.address && { address: lens.address }) };
  const written = useQuery({
    queryKey: ["written", id, query],
    queryFn: () => take(api.GET("/api/answers/{id}/written", { params: { path: { id }, query } })),
    placeholderData: (before) => before,
    meta: { followsDrafts: true },
  });
  return (
    <section aria-label="Through the lens" className="min-h-0 overflow-y-auto">
      <div className="rounded-[6px] border border-line bg-sheet">
        <p className="border-b border-line px-4 py-1.5 text-second">
          <b className="font-semibold">Through the lens</b>{" "}
          <span className="text-soft">{written.data?.subject || "no subject"}</span>
        </p>
        <div className="px-4 py-2.5 break-words whitespace-pre-wrap">{written.data?.text}</div>
      </div>
      <Trouble error={written.error} />
    </section>
  );
}
