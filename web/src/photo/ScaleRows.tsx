import { Button } from "antd";
import type { Picture, PictureOut } from "../api/client";
import { useBench } from "../job/context";
import { ProblemNote } from "../ui/ProblemNote";
import { usePhoto } from "./store";

/** The scale from one known length, and what a second one says of it. */
export function ScaleRows({ picture, facts }: { picture: Picture; facts: PictureOut | undefined }) {
  const { edit } = useBench();
  const { tool, use } = usePhoto();
  const away = facts?.check_away ?? null;
  const far = away !== null && Math.abs(away) > 2;
  return (
    <section className="desk-card" aria-label="Scale">
      <h2>Scale</h2>
      <div className="button-rows">
        <Button size="small" type={tool === "scale" ? "primary" : "default"} onClick={() => use("scale")}>
          {picture.scale ? "Another known length" : "Set a known length"}
        </Button>
        {picture.scale && (
          <Button size="small" type={tool === "check" ? "primary" : "default"} onClick={() => use("check")}>
            {picture.check ? "Another second length" : "Try a second length"}
          </Button>
        )}
      </div>
      {facts?.mm_per_px ? (
        <div className="near-row figures">
          <span>{picture.scale?.length.text}</span>
          <span>{(1 / facts.mm_per_px).toFixed(2)} px/mm</span>
          <span>± {(200 * (facts.relative_u ?? 0)).toFixed(2)} %</span>
        </div>
      ) : (
        <p className="quiet small">
          {picture.corners || picture.role === "drawing"
            ? "One length that you know makes pixels into mm."
            : "Square it up first: in a slanted photo no length holds for another."}
        </p>
      )}
      {facts?.check_error !== null && facts?.check_error !== undefined && (
        <div className="near-row figures">
          <span>{picture.check?.length.text}</span>
          <span>{`${facts.check_error >= 0 ? "+" : "−"}${Math.abs(100 * facts.check_error).toFixed(2)} %`}</span>
          <span className={far ? "above" : "below"}>
            {far ? "▲ " : ""}
            {`${Math.abs(away ?? 0).toFixed(1)} u off`}
          </span>
        </div>
      )}
      {far && (
        <p className="above small">
          The two lengths do not agree: one of them, or the corners, is not what it is taken for.{" "}
          <button
            type="button"
            className="link"
            onClick={() => void edit({ op: "set-picture", id: picture.id, clear: ["check"] })}
          >
            Leave it out
          </button>
        </p>
      )}
      {facts?.problems.map((p) => (
        <ProblemNote key={String(p.message)} problem={p} />
      ))}
    </section>
  );
}
