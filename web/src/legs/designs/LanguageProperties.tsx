import { useState } from "react";
import { Button } from "../../kit/Button";
import type { Act } from "./DesignBench";
import { literalTexts, translated, type Design, type Languages } from "./designState";
import { Row, TextInput, Titled } from "./Row";

const form = /^[a-z]{2,3}(-[a-z0-9]{2,8})*$/i;

/** The design's texts in other languages. Whoever has none of these reads the text itself. */
export function LanguageProperties({ design, act }: { design: Design; act: Act }) {
  const [typed, setTyped] = useState("");
  const languages: Languages = design.languages ?? {};
  const texts = literalTexts(design);
  const set = (label: string, next: Languages, mergeKey = "") =>
    act(label, { kind: "languages", languages: next }, mergeKey);
  const canAdd = form.test(typed) && !Object.keys(languages).some((one) => one.toLowerCase() === typed.toLowerCase());
  return (
    <Titled title="Other languages">
      <p className="text-second text-soft">
        A person’s language decides; de is read by de-AT too. Whoever has none of these reads the text as it stands.
      </p>
      {texts.length === 0 && <p>The design has no text of its own yet.</p>}
      {Object.entries(languages).map(([language, forms]) => (
        <fieldset key={language} className="flex flex-col gap-1.5 rounded-[4px] border border-line p-2">
          <legend className="px-1 font-semibold">{language}</legend>
          {texts.map((text) => (
            <Row key={text} label={text}>
              <TextInput
                label={`${text} in ${language}`}
                value={forms[text] ?? ""}
                placeholder={text}
                onChange={(value) =>
                  set("a text in another language", translated(languages, language, text, value), `${language} ${text}`)
                }
              />
            </Row>
          ))}
          <div>
            <Button
              look="quiet"
              onClick={() =>
                set(
                  "take out a language",
                  Object.fromEntries(Object.entries(languages).filter(([one]) => one !== language)),
                )
              }
            >
              Take {language} out
            </Button>
          </div>
        </fieldset>
      ))}
      <Row label="Language">
        <div className="flex gap-2">
          <TextInput label="Language to add" value={typed} placeholder="de, sv, fr-CH" onChange={setTyped} />
          <Button
            disabled={!canAdd}
            onClick={() => {
              set("add a language", { ...languages, [typed]: {} });
              setTyped("");
            }}
          >
            Add
          </Button>
        </div>
      </Row>
    </Titled>
  );
}
