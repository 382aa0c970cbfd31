/** How large the file gets, and a border around the picture. */
import { Form } from "react-bootstrap";
import { NumberBox } from "../../ui/NumberBox";
import { LEAST_PER_INCH, perInch, SIZES, sizeOf, wrongSize, type SizeBy, type Wish } from "./wish";

interface Props {
  wish: Wish;
  width: number;
  height: number;
  change: (part: Partial<Wish>) => void;
}

export function SizeFields({ wish, width, height, change }: Props) {
  const wrong = wrongSize(wish);
  const [w, h] = wrong ? [0, 0] : sizeOf(wish, width, height);
  const dense = wish.size === "print" && !wrong ? Math.round(perInch(Math.max(w, h), wish.printCm)) : null;
  const number = (name: "longSide" | "megapixels" | "printCm" | "perInch", label: string, unit: string) => (
    <div className="mg-long-side">
      <NumberBox label={label} value={wish[name]} invalid={wrong !== ""} onChange={(v) => change({ [name]: v })} />
      <span>{unit}</span>
    </div>
  );
  return (
    <fieldset>
      <legend>Size</legend>
      <div className="mg-sizes">
        <Form.Select aria-label="Size by" size="sm" value={wish.size} onChange={(e) => change({ size: e.target.value as SizeBy })}>
          {SIZES.map(([by, text]) => (
            <option key={by} value={by}>
              {text}
            </option>
          ))}
        </Form.Select>
        {wish.size === "side" && number("longSide", "Long side in pixels", "px")}
        {wish.size === "megapixels" && number("megapixels", "Megapixels", "MP")}
        {wish.size === "print" && number("printCm", "Printed long side in centimetres", "cm")}
        {wish.size === "print" && number("perInch", "Pixels per inch", "per inch")}
      </div>
      <p className="mg-hint" aria-label="Size of the file">
        {wrong || `${w} × ${h} pixels`}
        {dense !== null && dense < Math.round(wish.perInch) && (
          <span className={dense < LEAST_PER_INCH ? "mg-warn" : undefined}>
            : {dense} per inch{dense < LEAST_PER_INCH && `, soft below ${LEAST_PER_INCH}`}
          </span>
        )}
      </p>
      <div className="mg-long-side">
        <Form.Check
          id="deliver-border"
          label="Border"
          checked={wish.border !== null}
          onChange={(e) => change({ border: e.target.checked ? 4 : null })}
        />
        {wish.border !== null && (
          <>
            <NumberBox label="Border in per cent of the long side" value={wish.border} invalid={false} onChange={(v) => change({ border: Math.min(Math.max(v, 0.1), 50) })} />
            <span>%</span>
            <Form.Select aria-label="Colour of the border" size="sm" value={wish.black ? "black" : "white"} onChange={(e) => change({ black: e.target.value === "black" })}>
              <option value="white">White</option>
              <option value="black">Black</option>
            </Form.Select>
          </>
        )}
      </div>
    </fieldset>
  );
}
