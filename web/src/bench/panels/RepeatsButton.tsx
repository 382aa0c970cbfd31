/** Finds touches of a pass that visibly repeat the place they were taken from. */
import { Button } from "react-bootstrap";
import { client, unwrap, type ApiError, type Pass } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { useBench } from "../state/bench";

export function RepeatsButton({ pass }: { pass: Pass }) {
  const find = async () => {
    const { portrait, pickAll, say } = useBench.getState();
    const path = { portrait_id: portrait!.id, pass_id: pass.id };
    const found = await unwrap(
      client.GET("/api/portraits/{portrait_id}/passes/{pass_id}/repeats", { params: { path } }),
    ).catch((error: ApiError) => say(error.message));
    if (!found) return;
    pickAll(found.map((r) => r.touch_id));
    say(
      found.length === 0
        ? "Nothing in this pass repeats itself visibly."
        : found.length === 1
          ? "One touch visibly repeats another place. N gives it another source."
          : `${found.length} touches visibly repeat another place. N gives the picked one another source.`,
    );
  };
  return (
    <Button variant="quiet" title="Find touches that visibly repeat the place they were taken from" onClick={() => void find()}>
      <Icon name="front" /> Repeats
    </Button>
  );
}
