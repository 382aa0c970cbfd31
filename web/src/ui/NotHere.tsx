import { Link } from "react-router";

export function NotHere({ text }: { text?: string }) {
  return (
    <main className="mg-centre">
      <h1>Nothing here</h1>
      <p>{text ?? "This address doesn't lead anywhere."}</p>
      <Link to="/" className="btn btn-primary">
        To the portraits
      </Link>
    </main>
  );
}
