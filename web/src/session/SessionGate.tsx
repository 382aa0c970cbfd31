import { useEffect, type ReactNode } from "react";
import { Button, Spinner } from "react-bootstrap";
import { usePreferences } from "./preferences";
import { useSession } from "./session";
import { SignInPage } from "./SignInPage";

/** Shows the sign-in page until somebody is signed in. */
export function SessionGate({ children }: { children: ReactNode }) {
  const session = useSession();
  const user = session.data?.user;
  useEffect(() => {
    if (user) void usePreferences.getState().load();
  }, [user]);
  if (session.isPending)
    return (
      <main className="mg-centre">
        <Spinner role="status" aria-label="Loading" />
      </main>
    );
  if (session.isError)
    return (
      <main className="mg-centre">
        <h1>The studio doesn't answer</h1>
        <p>{session.error.message}</p>
        <Button onClick={() => void session.refetch()}>Try again</Button>
      </main>
    );
  return session.data.user ? children : <SignInPage session={session.data} />;
}
