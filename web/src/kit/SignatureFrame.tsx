type SignatureFrameProps = { html: string; title: string; isDark?: boolean };

/**
 * Shows a signature as a recipient would see it: in a sandboxed frame without scripts, without this page's styles and without its rights. Pictures
 * lie under /pictures, as beside the file on a computer.
 */
export function SignatureFrame({ html, title, isDark = false }: SignatureFrameProps) {
  const paper = isDark ? "#1b1f22" : "#ffffff";
  const page = `<!doctype html><html lang="en"><head><meta charset="utf-8"><base href="${location.origin}/" target="_blank"><title>${title}</title></head><body style="margin:0;background:${paper}">${html}</body></html>`;
  return (
    <iframe
      title={title}
      sandbox=""
      srcDoc={page}
      className={`block h-full w-full border-0 ${isDark ? "bg-mail-dark" : "bg-mail-light"}`}
    />
  );
}
