import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, take, type Api } from "../api/client";
import { useSignOut } from "../frame/session";
import { Wordmark } from "../frame/Wordmark";
import { Button } from "../kit/Button";
import { SignatureFrame } from "../kit/SignatureFrame";
import { StateBar } from "../kit/StateBar";
import { Trouble } from "../kit/Trouble";
import { OwnFields } from "./OwnFields";

const lists = new Intl.ListFormat("en");

/** The employee's page: my signatures as they are now, what is fixed, and how to put them in where they do not arrive by themselves. */
export function OwnPage({ user }: { user: Api["SessionUser"] }) {
  const signOut = useSignOut();
  const own = useQuery({ queryKey: ["own"], queryFn: () => take(api.GET("/api/own/signatures")) });
  const addresses = [...new Set(own.data?.signatures.map((signature) => signature.address))];
  return (
    <div className="mx-auto flex max-w-3xl flex-col gap-6 px-6 py-6">
      <header className="flex items-center justify-between">
        <Wordmark />
        <span className="flex items-center gap-3 text-soft">
          {user.name}
          <Button look="quiet" onClick={() => signOut.mutate()}>
            Sign out
          </Button>
        </span>
      </header>
      <main className="flex flex-col gap-6">
        <div>
          <h1 className="font-title text-title font-medium">Your signatures</h1>
          <p className="mt-0.5 text-soft">
            {own.data && own.data.clients.length > 0
              ? `They come by themselves to your ${lists.format(own.data.clients)}. `
              : "Put them in by hand, as is told below. "}
            Your company sets what stands in them, but for the facts at the end of this page, which are yours to change.
            If another is wrong, tell whoever keeps the directory.
          </p>
        </div>
        <Trouble error={own.error} />
        {own.data?.edition === 0 && <p className="text-soft">Your company has not rolled out any signatures yet.</p>}
        {addresses.map((address) => (
          <section key={address} aria-label={address} className="flex flex-col gap-3">
            <h2 className="border-b border-ink pb-1 font-semibold">{address}</h2>
            {own.data?.signatures
              .filter((signature) => signature.address === address)
              .map((signature) => (
                <OneSignature key={signature.slot} signature={signature} />
              ))}
          </section>
        ))}
        {own.data && own.data.edition > 0 && <ByHand own={own.data} />}
        <OwnFields />
      </main>
    </div>
  );
}

function OneSignature({ signature }: { signature: Api["OwnSignature"] }) {
  const { address, slot, name, html, text } = signature;
  const [said, setSaid] = useState("");
  const copy = async (what: "rich" | "text") => {
    const plain = new Blob([text], { type: "text/plain" });
    try {
      if (what === "text") await navigator.clipboard.writeText(text);
      else
        await navigator.clipboard.write([
          new ClipboardItem({ "text/html": new Blob([html], { type: "text/html" }), "text/plain": plain }),
        ]);
      setSaid(what === "rich" ? "Copied with its look." : "Copied as text.");
    } catch {
      setSaid("This browser does not let pages copy. Download it, open it, select all and copy.");
    }
  };
  return (
    <div className="grid grid-cols-[150px_1fr] gap-4">
      <h3 className="text-soft">{slot}</h3>
      {name === "" ? (
        <p>No signature.</p>
      ) : (
        <div className="flex flex-col gap-2">
          <div className="rounded-[6px] border border-line bg-mail-light p-4">
            <SignatureFrame html={html} title={`${slot}, from ${address}`} grows />
          </div>
          <div className="flex flex-wrap items-center gap-2">
            <Button label={`Copy rich: ${slot}, ${address}`} onClick={() => void copy("rich")}>
              Copy rich
            </Button>
            <Button label={`Copy text: ${slot}, ${address}`} onClick={() => void copy("text")}>
              Copy text
            </Button>
            <Button label={`Download: ${slot}, ${address}`} onClick={() => download(signature)}>
              Download
            </Button>
            <span role="status" className="text-soft">
              {said}
            </span>
          </div>
        </div>
      )}
    </div>
  );
}

/** Hands a signature to the browser to keep, as a page that any program opens. */
function download({ address, slot, html }: Api["OwnSignature"]) {
  const page = `<!doctype html>\n<html><head><meta charset="utf-8"><title>Signature</title></head><body>${html}</body></html>\n`;
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([page], { type: "text/html" }));
  link.download = `${address}, ${slot.toLowerCase()}.html`;
  link.click();
  URL.revokeObjectURL(link.href);
}

/** How to put them in, and saying that it was done. */
function ByHand({ own }: { own: Api["OwnSignatures"] }) {
  const queries = useQueryClient();
  const place = useMutation({
    mutationFn: () => take(api.POST("/api/own/signatures/placed")),
    onSettled: () => queries.invalidateQueries({ queryKey: ["own"] }),
  });
  const isRight = own.isPlaced && own.state === "inPlace";
  return (
    <section aria-label="Putting them in by hand" className="flex flex-col items-start gap-2">
      <h2 className="w-full border-b border-ink pb-1 font-semibold">Where they do not arrive by themselves</h2>
      <ol className="list-decimal pl-5">
        <li>Press Copy rich beside the signature for the address you send from.</li>
        <li>In your mail program’s settings find the place for a signature of that address. Empty it and paste.</li>
        <li>If its look is lost, the place holds plain text: empty it again, press Copy text and paste that.</li>
        <li>
          Do the same with the one for replies, if your mail program has a place of its own for it. Otherwise take the
          one for new messages.
        </li>
        <li>Write a mail to yourself, look at it, and follow every link once.</li>
      </ol>
      {own.isPlaced && (
        <p className="flex items-center gap-2">
          <StateBar state={isRight ? "inPlace" : "waits"} />
          {isRight
            ? "You said that they are in place."
            : "They have changed since you put them in: please do it once more."}
        </p>
      )}
      {!isRight && (
        <Button look="main" disabled={place.isPending} onClick={() => place.mutate()}>
          I have put them in
        </Button>
      )}
      <Trouble error={place.error} />
    </section>
  );
}
