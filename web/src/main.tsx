import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { ProblemError } from "./api/client";
import { DraftsProvider } from "./frame/drafts";
import { Frame } from "./frame/Frame";
import { SignIn } from "./frame/SignIn";
import { useSession } from "./frame/session";
import "./index.css";
import { Trouble } from "./kit/Trouble";
import { LensProvider } from "./lens/lensState";
import { OwnPage } from "./own/OwnPage";

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      refetchOnWindowFocus: false,
      retry: (tries, error) =>
        tries < 2 && (!(error instanceof ProblemError) || error.status === 0 || error.status >= 500),
    },
  },
});

function App() {
  const session = useSession();
  if (session.isPending) return null;
  if (session.isError)
    return (
      <div className="p-6">
        <Trouble error={session.error} />
      </div>
    );
  const user = session.data.user;
  if (!user) return <SignIn />;
  if (user.role !== "administrator") return <OwnPage user={user} />;
  return (
    <DraftsProvider>
      <LensProvider>
        <Frame user={user} />
      </LensProvider>
    </DraftsProvider>
  );
}

const root = document.getElementById("root");
if (root)
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <BrowserRouter>
          <App />
        </BrowserRouter>
      </QueryClientProvider>
    </StrictMode>,
  );
