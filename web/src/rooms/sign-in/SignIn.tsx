import "./SignIn.css";
import Button from "@mui/material/Button";
import OutlinedInput from "@mui/material/OutlinedInput";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Session, taken } from "../../api/client";
import { RegisterMark } from "../../shared/ui/RegisterMark";

interface Props {
  session: Session;
  /** Who was signed in until now; the rooms behind go on for them. */
  again?: string;
  onDone?: (session: Session) => void;
}

export function SignIn({ session, again, onDone }: Props) {
  const queries = useQueryClient();
  const [user, setUser] = useState(again ?? "");
  const [password, setPassword] = useState("");
  const signIn = useMutation({
    mutationFn: () => taken(api.POST("/api/session", { body: { user, password } })),
    onSuccess: (now) => (onDone ? onDone(now) : queries.setQueryData(["session"], now)),
  });
  return (
    <main className="sign-in">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          signIn.mutate();
        }}
      >
        <div style={{ display: "flex", gap: 8, alignItems: "center" }}>
          <RegisterMark /> <h1>Plinto</h1>
        </div>
        <p className="soft">
          {again
            ? "Your session has ended. Sign in again; everything goes on where it was."
            : "RGB artwork to press, textile and screen-printing inks."}
        </p>
        <label htmlFor="user">
          Name
          <OutlinedInput
            fullWidth
            id="user"
            name="user"
            autoComplete="username"
            autoFocus
            value={user}
            onChange={(event) => setUser(event.target.value)}
          />
        </label>
        <label htmlFor="password">
          Password
          <OutlinedInput
            fullWidth
            id="password"
            name="password"
            type="password"
            autoComplete="current-password"
            value={password}
            onChange={(event) => setPassword(event.target.value)}
          />
        </label>
        {signIn.error && (
          <p className="notice" role="alert">
            {signIn.error.message}
          </p>
        )}
        <Button type="submit" variant="contained" disabled={signIn.isPending}>
          Sign in
        </Button>
        {session.demo && (
          <p className="soft">
            This is the demo. Its account is <b>{session.demo.user}</b>, password{" "}
            <b>{session.demo.password}</b>.{" "}
            <button
              type="button"
              className="quiet-button"
              onClick={() => {
                setUser(session.demo?.user ?? "");
                setPassword(session.demo?.password ?? "");
              }}
            >
              Fill it in
            </button>
          </p>
        )}
      </form>
    </main>
  );
}
