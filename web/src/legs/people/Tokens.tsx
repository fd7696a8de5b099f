import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, take, type Api } from "../../api/client";
import { Button } from "../../kit/Button";
import { dateText, momentText } from "../../kit/dates";
import { Trouble } from "../../kit/Trouble";

/** Makes a token for a client that pushes; shows it once. */
export function MakeToken({ source, onDone }: { source: string | null; onDone: () => void }) {
  const queries = useQueryClient();
  const [name, setName] = useState("Identity provider");
  const make = useMutation({
    mutationFn: () => take(api.POST("/api/tokens", { body: { name, source } })),
    onSuccess: () => queries.invalidateQueries(),
  });
  if (make.data) return <Made made={make.data} onDone={onDone} />;
  return (
    <form
      aria-label="A client that pushes"
      className="mt-2 flex flex-col gap-2.5 rounded-[4px] bg-fold px-4 py-3 text-second"
      onSubmit={(event) => {
        event.preventDefault();
        make.mutate();
      }}
    >
      <p className="text-soft">
        An identity provider that speaks SCIM 2.0 pushes people and groups here by itself, with a token that stands for
        it.
      </p>
      <label className="flex items-center gap-3">
        <span className="text-soft">Called</span>
        <input
          autoFocus
          value={name}
          onChange={(event) => setName(event.target.value)}
          className="flex-1 rounded-[4px] border border-field bg-sheet px-2 py-1"
        />
      </label>
      <Trouble error={make.error} />
      <div className="flex gap-2">
        <Button type="submit" disabled={make.isPending || name.trim() === ""}>
          Make a token
        </Button>
        <Button look="quiet" onClick={onDone}>
          Leave
        </Button>
      </div>
    </form>
  );
}

function Made({ made, onDone }: { made: Api["MadeToken"]; onDone: () => void }) {
  return (
    <section
      aria-label="The new token"
      className="mt-2 flex flex-col gap-2 rounded-[4px] border border-lens bg-sheet px-4 py-3 text-second"
    >
      <p className="font-semibold">Give these two to the client. The token is shown this once.</p>
      <dl className="grid grid-cols-[70px_minmax(0,1fr)] gap-x-3 gap-y-1">
        <dt className="text-soft">Address</dt>
        <dd className="[overflow-wrap:anywhere]">{`${window.location.origin}/scim/v2`}</dd>
        <dt className="text-soft">Token</dt>
        <dd>
          <code className="[overflow-wrap:anywhere] select-all">{made.token}</code>
        </dd>
      </dl>
      <div>
        <Button onClick={onDone}>I have it</Button>
      </div>
    </section>
  );
}

/** The tokens of a source that pushes. */
export function Tokens({ source }: { source: Api["SourceAnswer"] }) {
  const queries = useQueryClient();
  const [isMaking, setMaking] = useState(false);
  const tokens = useQuery({
    queryKey: ["tokens", source.id],
    queryFn: () => take(api.GET("/api/sources/{id}/tokens", { params: { path: { id: source.id } } })),
  });
  const revoke = useMutation({
    mutationFn: (id: string) => take(api.DELETE("/api/tokens/{id}", { params: { path: { id } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["tokens"] }),
  });
  return (
    <section aria-label="Tokens" className="mt-2 text-second">
      <Trouble error={tokens.error ?? revoke.error} />
      <ul>
        {tokens.data?.map((token) => (
          <li key={token.id} className="flex items-center justify-between gap-3 border-b border-line py-1">
            <span>
              <span className={token.revokedAt ? "text-soft line-through" : "font-semibold"}>{token.name}</span>{" "}
              <span className="text-soft">
                made {dateText(token.createdAt)} by {token.createdBy},{" "}
                {token.revokedAt
                  ? `revoked ${dateText(token.revokedAt)}`
                  : token.lastUsedAt
                    ? `used ${momentText(token.lastUsedAt)}`
                    : "not used yet"}
              </span>
            </span>
            {!token.revokedAt && (
              <Button look="quiet" disabled={revoke.isPending} onClick={() => revoke.mutate(token.id)}>
                Revoke
              </Button>
            )}
          </li>
        ))}
      </ul>
      {isMaking ? (
        <MakeToken source={source.id} onDone={() => setMaking(false)} />
      ) : (
        <Button look="quiet" onClick={() => setMaking(true)}>
          Make another token
        </Button>
      )}
    </section>
  );
}
