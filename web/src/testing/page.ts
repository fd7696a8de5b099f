import { answer } from "./standInServer";

// What a page has from its browser and is not there without one. It is put in place before anything of the screens is loaded.

/** Where nothing is drawn, nothing has a size. */
class NothingDrawn implements ResizeObserver {
  observe() {}
  unobserve() {}
  disconnect() {}
}

const Whole = globalThis.Request;

/** A request whose address is completed by the page's. */
class PageRequest extends Whole {
  constructor(input: RequestInfo | URL, init?: RequestInit) {
    super(typeof input === "string" ? new URL(input, window.location.href) : input, init);
  }
}

/** As much of a request as sending a file needs. */
class SentFile {
  readonly upload: { onprogress?: (event: { loaded: number; total: number }) => void } = {};
  onload?: () => void;
  onerror?: () => void;
  responseType = "";
  status = 0;
  response: unknown = null;
  private headers = new Headers();
  private method = "";
  private path = "";

  open(method: string, path: string) {
    [this.method, this.path] = [method, path];
  }

  setRequestHeader(name: string, value: string) {
    this.headers.set(name, value);
  }

  send(file: Blob) {
    this.upload.onprogress?.({ loaded: file.size, total: file.size });
    void this.ask(file).then(
      () => this.onload?.(),
      () => this.onerror?.(),
    );
  }

  private async ask(file: Blob) {
    const { method, headers } = this;
    const answered = await answer(new PageRequest(this.path, { method, headers, body: await file.text() }));
    this.status = answered.status;
    this.response = await answered.json();
  }
}

globalThis.fetch = (input, init) => answer(new PageRequest(input, init));
Object.assign(globalThis, { ResizeObserver: NothingDrawn, Request: PageRequest, XMLHttpRequest: SentFile });
