import { memo } from "react";
import type { Job } from "../api/queries";
import { pictureAddress } from "../photo/address";
import { length, type Unit } from "../units";
import { type Sheet, toScreen, type XY } from "./drawing";
import { figureText, type LaidPicture, pictureTransform } from "./pictures";
import "./pictures.css";

interface Props {
  job: string;
  evidence: Job["recipe"]["evidence"];
  laid: readonly LaidPicture[];
  sheet: Sheet;
  paper: number;
  unit: Unit;
}

/** Photos and drawings under the drawing, as large as their scale says, with the figures that stand in them. */
export const UnderPhotos = memo(function UnderPhotos({ job, evidence, laid, sheet, paper, unit }: Props) {
  return (
    <g className="under-photos" data-laid={laid.filter((l) => l.matrix).length}>
      {laid.map((l) => {
        const picture = evidence.find((e) => e.id === l.picture);
        if (picture?.kind !== "picture" || !l.matrix) return null;
        const [x, y, width, height] = picture.crop ?? [0, 0, ...l.size];
        return (
          <g key={l.picture} transform={pictureTransform(sheet, l.matrix)} opacity={paper}>
            <clipPath id={`crop-${l.picture}`}>
              <rect x={x} y={y} width={width} height={height} />
            </clipPath>
            <image
              href={pictureAddress(job, picture)}
              width={l.size[0]}
              height={l.size[1]}
              preserveAspectRatio="none"
              clipPath={`url(#crop-${l.picture})`}
            />
          </g>
        );
      })}
      {laid.flatMap((l) =>
        l.figures.map((f) => {
          const [x, y] = toScreen(sheet, f.at as XY);
          return (
            <text key={`${l.picture}${f.reading}`} x={x.toFixed(1)} y={y.toFixed(1)} data-figure={f.reading}>
              {figureText(f, (n) => length(n, unit))}
            </text>
          );
        }),
      )}
    </g>
  );
});
