import { useQuery } from "@tanstack/react-query";
import { api, take, type Api } from "../api/client";
import { useSignOut } from "../frame/session";
import { Wordmark } from "../frame/Wordmark";
import { Button } from "../kit/Button";
import { SignatureFrame } from "../kit/SignatureFrame";
import { Trouble } from "../kit/Trouble";
import { OwnFields } from "./OwnFields";

/** The employee's page: my signatures as they are now, and what is fixed. */
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
            They come to your computer by themselves. What stands in them is set by your company, save what you find
            below them; if a fact about you is wrong, tell whoever keeps the directory.
          </p>
        </div>
        <Trouble error={own.error} />
        {own.data?.edition === 0 && <p className="text-soft">Your company has not rolled out any signatures yet.</p>}
        {addresses.map((address) => (
          <section key={address} aria-label={address} className="flex flex-col gap-3">
            <h2 className="border-b border-ink pb-1 font-semibold">{address}</h2>
            {own.data?.signatures
              .filter((signature) => signature.address === address)
              .map(({ slot, signature }) => (
                <div key={slot} className="grid grid-cols-[150px_1fr] gap-4">
                  <h3 className="text-soft">{slot}</h3>
                  {signature ? (
                    <div
                      className="rounded-[6px] border border-line bg-mail-light p-4"
                      style={{ height: heightFor(signature.text) }}
                    >
                      <SignatureFrame html={signature.html} title={`${slot}, from ${address}`} />
                    </div>
                  ) : (
                    <p>No signature.</p>
                  )}
                </div>
              ))}
          </section>
        ))}
        <OwnFields />
      </main>
    </div>
  );
}

/** A sandboxed frame cannot tell its height, so it is judged by the lines of the text form. */
function heightFor(text: string) {
  return 44 + 21 * text.trimEnd().split("\n").length;
}
