/** All links, the newest first: what was said, what can be done with each. */
import { useState } from "react";
import { Alert, Button, Modal, Spinner } from "react-bootstrap";
import { Link } from "react-router";
import { ago } from "../ui/format";
import { PageHead } from "../ui/PageHead";
import { Address } from "./Address";
import { addressOf, standing, useLinkChanges, useLinks, type ClientLink } from "./links";

export function LinksPage() {
  const links = useLinks();
  const { showAnew, token, withdraw, change } = useLinkChanges();
  const [asking, setAsking] = useState<ClientLink | null>(null);
  const failure = showAnew.error ?? token.error ?? withdraw.error ?? change.error;
  return (
    <div className="mg-wall">
      <PageHead title="Clients" />
      <main className="mg-wall-main">
        <div className="mg-wall-head">
          <div>
            <h1>Clients</h1>
            <p>Pages on which clients look at portraits, set pins and sign off. Pick portraits on the wall to make one.</p>
          </div>
        </div>
        {failure && <Alert variant="warning">{failure.message}</Alert>}
        {links.isPending && <Spinner role="status" aria-label="Loading links" />}
        {links.isError && <Alert variant="warning">{links.error.message}</Alert>}
        {links.data?.length === 0 && <div className="mg-empty">Nothing was shown yet.</div>}
        <ul className="mg-links" aria-label="Links">
          {links.data?.map((link) => (
            <li key={link.id}>
              <div>
                <strong>{link.title}</strong>
                <span>
                  {link.portraits === 1 ? "1 portrait" : `${link.portraits} portraits`}: {standing(link)}
                </span>
                <small>
                  {link.opened === 0 ? "not opened yet" : `opened ${link.opened === 1 ? "once" : `${link.opened} times`}, last ${ago(link.opened_at!)}`}
                  {link.state === "open" && ` · until ${new Date(link.expires_at).toLocaleDateString()}`}
                  {link.phrase && " · pass phrase"}
                  {link.watermark && ` · “${link.watermark}” over it`} · {link.long_side} px
                  {!link.compare && " · without the original"}
                </small>
                {link.portraits === 1 && link.shows[0] && <Link to={`/portraits/${link.shows[0]}`}>Open the portrait</Link>}
                {token.data?.link.id === link.id && <Address address={addressOf(token.data.token)} />}
              </div>
              {link.state !== "withdrawn" && (
                <span className="mg-links-tools">
                  <Button variant="secondary" size="sm" title="Pins stay; the client is asked again" onClick={() => showAnew.mutate(link.id)}>
                    Show as it is now
                  </Button>
                  <Button variant="secondary" size="sm" onClick={() => change.mutate({ id: link.id, days: 30 })}>
                    30 days from now
                  </Button>
                  <Button variant="secondary" size="sm" title="The old address opens nothing any more" onClick={() => token.mutate(link.id)}>
                    New address
                  </Button>
                  <Button variant="secondary" size="sm" onClick={() => setAsking(link)}>
                    Withdraw
                  </Button>
                </span>
              )}
            </li>
          ))}
        </ul>
      </main>
      <Modal show={asking !== null} onHide={() => setAsking(null)} centered>
        <Modal.Header closeButton>
          <Modal.Title>Withdraw {asking?.title}?</Modal.Title>
        </Modal.Header>
        <Modal.Body>The page is gone at once, and for good. Pins and what was said stay here.</Modal.Body>
        <Modal.Footer>
          <Button variant="secondary" onClick={() => setAsking(null)}>
            Keep it
          </Button>
          <Button
            onClick={() => {
              withdraw.mutate(asking!.id);
              setAsking(null);
            }}
          >
            Withdraw
          </Button>
        </Modal.Footer>
      </Modal>
    </div>
  );
}
