import { useState, type FormEvent } from "react";
import { Alert, Button, Form } from "react-bootstrap";
import type { Session } from "../api/client";
import { Brand } from "../ui/Brand";
import { useSessionChange } from "./session";

export function SignInPage({ session }: { session: Session }) {
  const { signIn, signUp } = useSessionChange();
  const [making, setMaking] = useState(false);
  const [username, setUsername] = useState("");
  const [password, setPassword] = useState("");
  const action = making ? signUp : signIn;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    action.mutate({ username, password });
  };
  return (
    <main className="mg-centre">
      <Form className="mg-sheet mg-sign-in" onSubmit={submit}>
        <Brand />
        <h1>{making ? "Make an account" : "Sign in"}</h1>
        {action.isError && <Alert variant="warning">{action.error.message}</Alert>}
        <Form.Group controlId="username">
          <Form.Label>Name</Form.Label>
          <Form.Control
            autoComplete="username"
            required
            value={username}
            onChange={(e) => setUsername(e.target.value)}
          />
        </Form.Group>
        <Form.Group controlId="password">
          <Form.Label>Password</Form.Label>
          <Form.Control
            type="password"
            autoComplete={making ? "new-password" : "current-password"}
            required
            value={password}
            onChange={(e) => setPassword(e.target.value)}
          />
        </Form.Group>
        <Button type="submit" disabled={action.isPending}>
          {making ? "Make the account" : "Sign in"}
        </Button>
        {session.sign_up_open && (
          <Button variant="link" onClick={() => setMaking(!making)}>
            {making ? "I have an account" : "Make an account"}
          </Button>
        )}
      </Form>
    </main>
  );
}
