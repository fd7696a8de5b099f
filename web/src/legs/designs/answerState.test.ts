import { expect, test } from "vitest";
import { insertedField, newAnswer } from "./answerState";

test("a new answer has a name of its own", () => {
  expect(newAnswer([]).name).toBe("New answer");
  expect(newAnswer(["New answer", "New answer 2"]).name).toBe("New answer 3");
});

test("a field goes where the caret is and takes the place of what is selected", () => {
  expect(insertedField("Ring us", 5, 7, "telephone")).toEqual({ text: "Ring {telephone}", caret: 16 });
  expect(insertedField("", 0, 0, "mobile")).toEqual({ text: "{mobile}", caret: 8 });
});
