import { useMutation } from "@tanstack/react-query";
import { api, take, type Api } from "../../api/client";
import { Button } from "../../kit/Button";
import { Trouble } from "../../kit/Trouble";

type SendTestProps = {
  id: string;
  person: string;
  occasion: Api["Occasion"];
  audience: string;
  address: string | null;
};

/** Sends the signature in a real message to whoever is signed in, and lists its links with their form. */
export function SendTest({ id, person, occasion, audience, address }: SendTestProps) {
  const send = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/designs/{id}/test-messages", {
          params: { path: { id }, query: { person, occasion, audience, ...(address && { address }) } },
        }),
      ),
  });
  return (
    <>
      <Button onClick={() => send.mutate()} disabled={send.isPending}>
        {send.isPending ? "Sending" : "Send a test to myself"}
      </Button>
      <Trouble error={send.error} />
      {send.data && (
        <div role="status" className="text-second">
          <p>
            Sent to {send.data.to}. {send.data.links.length === 0 ? "It has no links." : "Its links:"}
          </p>
          <ul className="mt-1 list-disc pl-4">
            {send.data.links.map((link, index) => (
              <li key={index} className="break-words">
                {link.words} <span className="text-soft">{link.address}</span>{" "}
                {link.trouble ? <b>{link.trouble}</b> : "well formed"}
              </li>
            ))}
          </ul>
        </div>
      )}
    </>
  );
}
