/** All portraits of the wall on one PDF, with their names. */
import { useState } from "react";
import { Button } from "react-bootstrap";
import { client, type ApiError } from "../api/client";
import { Icon } from "../ui/Icon";

/** As many as one sheet holds. */
const MOST = 400;

export function ContactSheet({ ids }: { ids: string[] }) {
  const [working, setWorking] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const make = async () => {
    setWorking(true);
    setProblem(null);
    try {
      const { data, error } = await client.POST("/api/contact-sheet", { body: { ids: ids.slice(0, MOST), title: "Portraits" }, parseAs: "blob" });
      if (error || !data) throw new Error((error as unknown as ApiError | undefined)?.message ?? "The sheet couldn't be made. Try again.");
      const link = document.createElement("a");
      link.href = URL.createObjectURL(data as unknown as Blob);
      link.download = "contact sheet.pdf";
      link.click();
      URL.revokeObjectURL(link.href);
    } catch (error) {
      setProblem((error as Error).message);
    } finally {
      setWorking(false);
    }
  };
  return (
    <>
      {problem && <span className="mg-warn">{problem}</span>}
      <Button variant="secondary" disabled={working} title="All portraits with their names on a PDF" onClick={() => void make()}>
        <Icon name="grid-3x3" /> {working ? "Making the sheet…" : "Contact sheet"}
      </Button>
    </>
  );
}
