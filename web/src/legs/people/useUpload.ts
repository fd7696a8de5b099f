import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { sendFile, type Api } from "../../api/client";

const headBytes = 256 * 1024; // of a table to look at before it is mapped

let pending: File | null = null;

/** The table whose columns are being mapped; a file cannot stand in an address. */
export function pendingTable() {
  return pending;
}

/** Looks at a table's beginning. */
export function lookAtTable(file: File) {
  const isWhole = file.size <= headBytes;
  return sendFile<Api["TableAnswer"]>(`/api/tables/look?isWhole=${isWhole}`, file.slice(0, headBytes), () => undefined);
}

/** Looks at the first people of an LDIF file. */
export function lookAtFile(file: File) {
  const isWhole = file.size <= headBytes;
  return sendFile<Api["SampleAnswer"]>(`/api/files/look?isWhole=${isWhole}`, file.slice(0, headBytes), () => undefined);
}

/** Sends a directory's file to be planned, and goes to the plan; a table goes by its mapping first. */
export function useUpload() {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [share, setShare] = useState<number | null>(null);
  const upload = useMutation({
    mutationFn: async ({ file, isMapped }: { file: File; isMapped: boolean }) => {
      if (/\.(csv|tsv|tab|txt)$/i.test(file.name) && !isMapped) {
        pending = file;
        return null;
      }
      return sendFile<Api["RunAnswer"]>(
        `/api/people/imports?fileName=${encodeURIComponent(file.name)}`,
        file,
        setShare,
      );
    },
    onSuccess: (plan) => {
      if (!plan) return void navigate("/people/table");
      pending = null;
      queries.setQueryData(["run", plan.run.id], plan);
      void queries.invalidateQueries({ queryKey: ["runs"] });
      void navigate(`/people/runs/${plan.run.id}`);
    },
    onSettled: () => setShare(null),
  });
  return {
    start: (file: File, isMapped = false) => upload.mutate({ file, isMapped }),
    share,
    isBusy: upload.isPending,
    error: upload.error,
  };
}
