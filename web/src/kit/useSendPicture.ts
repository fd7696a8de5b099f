import { useMutation } from "@tanstack/react-query";
import { sendFile, type Api } from "../api/client";

/** What the picture library takes. */
export const pictureTypes = "image/png,image/jpeg,image/webp,image/gif,image/svg+xml";

/** Hands a picture in, for the library that designs choose from or for a field. */
export function useSendPicture(place: "library" | "field", onKept: (kept: Api["KeptPicture"], file: File) => void) {
  return useMutation({
    mutationFn: (file: File) =>
      sendFile<Api["KeptPicture"]>(
        `/api/pictures?name=${encodeURIComponent(file.name)}&library=${place === "library"}`,
        file,
        () => undefined,
      ),
    onSuccess: onKept,
  });
}
