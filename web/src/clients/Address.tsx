/** An address to copy. */
import { useState } from "react";
import { Button, Form, InputGroup } from "react-bootstrap";

export function Address({ address }: { address: string }) {
  const [copied, setCopied] = useState("");
  const copy = () =>
    navigator.clipboard.writeText(address).then(
      () => setCopied("Copied"),
      () => setCopied("Mark it and copy it by hand"),
    );
  return (
    <InputGroup>
      <Form.Control readOnly aria-label="Address for the client" value={address} onFocus={(e) => e.currentTarget.select()} />
      <Button variant="secondary" onClick={() => void copy()}>
        {copied || "Copy"}
      </Button>
    </InputGroup>
  );
}
