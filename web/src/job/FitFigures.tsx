import type { Figures } from "../api/build";
import { Copyable } from "../ui/Copyable";
import { length, points, share } from "../units";
import { useBench } from "./context";

interface Props {
  figures: Figures;
  /** What the last row is about, and what it did to the share inside: none of the first body. */
  of: string;
  change: number | null | undefined;
}

const said = (change: number | null | undefined) =>
  change === undefined ? "…" : change === null ? "first body" : `${points(change)} %`;

/** Figures of a fit, as they can be copied. */
export function FitFigures({ figures, of, change }: Props) {
  const { unit } = useBench();
  return (
    <Copyable name="fit">
      <dl className="fit-facts">
        <div>
          <dt>rms</dt>
          <dd>{length(figures.rms, unit)}</dd>
        </div>
        <div>
          <dt>95 % within</dt>
          <dd>{length(figures.p95, unit)}</dd>
        </div>
        <div>
          <dt title="share of the body's surface without scan near it">never scanned</dt>
          <dd>{figures.unseen_share === null ? "…" : share(figures.unseen_share)}</dd>
        </div>
        <div>
          <dt className="one-line" title={of}>
            {of}
          </dt>
          <dd>{said(change)}</dd>
        </div>
      </dl>
    </Copyable>
  );
}
