import { useState } from "react";
import { Button } from "../kit/Button";
import { Trouble } from "../kit/Trouble";
import { Wordmark } from "./Wordmark";
import { useSignIn } from "./session";

const inputLook = "rounded-[4px] border border-field bg-sheet px-3 py-2";

/** The door. */
export function SignIn() {
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const signIn = useSignIn();
  return (
    <main className="flex h-full flex-col items-start justify-center px-[12vw]">
      <Wordmark />
      <h1 className="mt-10 font-title text-title font-medium">Sign in</h1>
      <p className="mt-0.5 text-soft">Every employee’s email signature, and proof that it is there.</p>
      <form
        className="mt-6 flex w-80 flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          signIn.mutate({ name, password });
        }}
      >
        <label className="flex flex-col gap-1">
          Name
          <input
            className={inputLook}
            autoComplete="username"
            value={name}
            required
            autoFocus
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        <label className="flex flex-col gap-1">
          Password
          <input
            className={inputLook}
            type="password"
            autoComplete="current-password"
            value={password}
            required
            onChange={(event) => setPassword(event.target.value)}
          />
        </label>
        <Trouble error={signIn.error} />
        <div>
          <Button look="main" type="submit" disabled={signIn.isPending}>
            Sign in
          </Button>
        </div>
      </form>
    </main>
  );
}
