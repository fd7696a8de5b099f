import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { sendFile, type Api } from "../../api/client";
import { count } from "../../frame/legs";
import { Button } from "../../kit/Button";
import { FileInput } from "../../kit/FileInput";
import { Trouble } from "../../kit/Trouble";
import { FileProgress } from "./FileDrop";

/** Portraits for many people at once, and what came of them. */
export function PortraitPick() {
  const queries = useQueryClient();
  const input = useRef<HTMLInputElement>(null);
  const [share, setShare] = useState<number | null>(null);
  const send = useMutation({
    mutationFn: (file: File) => sendFile<Api["PortraitsAnswer"]>("/api/portraits", file, setShare),
    onSuccess: () => queries.invalidateQueries(),
    onSettled: () => setShare(null),
  });
  return (
    <section aria-label="Portraits" className="mt-6">
      <h2 className="border-b border-ink pb-1 font-semibold">Portraits</h2>
      <div className="mt-2 flex flex-col items-start gap-2">
        <p className="text-soft">
          A ZIP archive with a PNG, JPEG, WebP or GIF for each person, named by the mail address:
          mia.ek@company.example.jpg
        </p>
        <Button onClick={() => input.current?.click()}>Add portraits…</Button>
        <FileInput
          input={input}
          label="Archive of portraits"
          accept=".zip,application/zip"
          onFile={(file) => send.mutate(file)}
        />
        <FileProgress share={share} />
        <Trouble error={send.error} />
        {send.data && (
          <div role="status">
            <p>
              <b className="font-semibold">{count(send.data.taken, "portrait", "portraits")}</b> taken.
            </p>
            {send.data.refused.length > 0 && (
              <details>
                <summary className="text-madder">{count(send.data.refused.length, "file", "files")} not taken</summary>
                <ul className="max-h-48 overflow-y-auto">
                  {send.data.refused.map((refused) => (
                    <li key={refused.file}>
                      <b className="font-semibold">{refused.file}</b> {refused.reason}
                    </li>
                  ))}
                </ul>
              </details>
            )}
          </div>
        )}
      </div>
    </section>
  );
}
