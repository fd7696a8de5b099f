import { cleanup } from "@testing-library/react";
import { afterEach, beforeEach } from "vitest";
import { answer, forget } from "./standInServer";

// The client keeps whatever "fetch" is when it is made, so the stand-in is there before it.
globalThis.fetch = (input, init) => answer(new Request(input, init));

// Where no page is drawn nothing has a size, and addresses are not completed.
window.ResizeObserver = class {
  observe() {}
  unobserve() {}
  disconnect() {}
};
const Whole = globalThis.Request;
globalThis.Request = class extends Whole {
  constructor(input: RequestInfo | URL, init?: RequestInit) {
    super(typeof input === "string" ? new URL(input, window.location.href) : input, init);
  }
};

beforeEach(forget);
afterEach(cleanup);
