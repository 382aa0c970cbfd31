/** Working light: what surrounds the picture, how bright and how large the rest is, the whole picture in a window of its own. */
import { Button, ButtonGroup, Form, OverlayTrigger, Popover } from "react-bootstrap";
import { Icon } from "../../ui/Icon";
import { hint } from "../keys";
import { useBench } from "../state/bench";
import { SURROUNDS, useLight } from "../state/light";

const WORDS = { dark: "Dark", mid: "Mid", light: "Light" };

export function WorkingLight() {
  const { surround, dim, large, set } = useLight();
  const id = useBench((s) => s.portrait?.id);
  const panel = (
    <Popover role="dialog" className="mg-light" aria-label="Working light">
      <Popover.Body>
        <div className="mg-row">
          <span id="light-surround">Around the picture</span>
          <ButtonGroup size="sm" aria-labelledby="light-surround">
            {SURROUNDS.map((s) => (
              <Button key={s} variant="outline" active={surround === s} aria-pressed={surround === s} onClick={() => set({ surround: s })}>
                {WORDS[s]}
              </Button>
            ))}
          </ButtonGroup>
        </div>
        <Form.Check type="switch" role="switch" id="light-dim" label="Panels dimmed" checked={dim} onChange={(e) => set({ dim: e.target.checked })} />
        <Form.Check type="switch" role="switch" id="light-large" label="Larger controls" checked={large} onChange={(e) => set({ large: e.target.checked })} />
        <div className="mg-row">
          <Button size="sm" variant="tray" title={hint("bare", "Everything hidden but the picture")} onClick={() => set({ bare: true })}>
            Only the picture
          </Button>
          <Button size="sm" variant="tray" title="The whole picture, in step with this window, for another screen" onClick={() => window.open(`/portraits/${id}/whole`, `whole-${id}`, "popup,width=900,height=1000")}>
            Second window
          </Button>
        </div>
      </Popover.Body>
    </Popover>
  );
  // No fading: the click that opens it again while it still fades would close it.
  return (
    <OverlayTrigger trigger="click" placement="top-end" rootClose transition={false} overlay={panel}>
      <Button variant="tray" aria-label="Working light" title="Working light: surround, panels, size, windows">
        <Icon name="circle-half" />
      </Button>
    </OverlayTrigger>
  );
}
