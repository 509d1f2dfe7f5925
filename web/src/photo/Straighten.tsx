import { Button, Slider } from "antd";
import type { Picture, SetPicture } from "../api/client";
import { useBench } from "../job/context";
import { LengthInput } from "../ui/LengthInput";
import { type Point, usePhoto } from "./store";

interface Props {
  picture: Picture;
  snap: (kind: "corners", points: Point[]) => Promise<{ points: number[][]; bend: number; rms: number } | null>;
}

const { round } = Math;

/** Squaring a picture up by a rectangle in it, turning it, and making it easier to see. */
export function Straighten({ picture, snap }: Props) {
  const { edit } = useBench();
  const { tool, points, box, use, set } = usePhoto();
  const { width: w, height: h } = picture;
  const begin = () => {
    const old = picture.corners as Point[] | null | undefined;
    use("corners", old ?? [[0.15 * w, 0.15 * h], [0.85 * w, 0.15 * h], [0.85 * w, 0.85 * h], [0.15 * w, 0.85 * h]]); // biome-ignore format: four corners
  };
  const change = (part: Partial<SetPicture>) => edit({ op: "set-picture", id: picture.id, ...part });
  const keep = async ([a, b, c, d]: Point[], bend: number) => {
    if (!a || !b || !c || !d) return;
    if (await change({ corners: [a, b, c, d], bend, clear: ["crop"] })) use("look");
  };
  const find = async () => {
    const found = await snap("corners", points);
    if (found) {
      set({ points: found.points as Point[] });
      await keep(found.points as Point[], found.bend);
    }
  };
  return (
    <section className="desk-card" aria-label="Straighten">
      <h2>Straighten</h2>
      {tool === "corners" ? (
        <>
          <p className="quiet small">Drag the four corners onto those of a sheet, card or plate; roughly will do.</p>
          <div className="button-rows">
            <Button size="small" type="primary" onClick={() => void find()}>
              Find its sides
            </Button>
            <Button size="small" onClick={() => void keep(points, 0)}>
              Just these corners
            </Button>
            <Button size="small" onClick={() => use("look")}>
              Stop
            </Button>
          </div>
        </>
      ) : (
        <>
          <div className="button-rows">
            <Button size="small" onClick={begin}>
              {picture.corners ? "Change the corners" : "Square it up"}
            </Button>
            {picture.corners && (
              <Button size="small" onClick={() => void change({ clear: ["corners", "crop"], bend: 0 })}>
                As it came
              </Button>
            )}
            {!picture.corners && (
              <Button
                size="small"
                onClick={() => void change({ turn_deg: (((picture.turn_deg ?? 0) + 270) % 360) - 180 })}
              >
                Turn a quarter
              </Button>
            )}
          </div>
          {picture.corners && (
            <div className="value-line">
              <span className="quiet small">width : height</span>
              <LengthInput
                label="Width over height of the rectangle"
                placeholder="by the perspective"
                value={picture.aspect ? String(Number(picture.aspect.toFixed(4))) : ""}
                onCommit={(t) => {
                  const parts = t.split(":").map(Number);
                  const aspect = parts.length === 2 ? parts[0]! / parts[1]! : parts[0]!;
                  void change(t.trim() && aspect > 0 ? { aspect } : { clear: ["aspect"] });
                }}
              />
              <span className="quiet small figures">lens {(100 * (picture.bend ?? 0)).toFixed(1)} %</span>
            </div>
          )}
        </>
      )}
      {tool !== "corners" && (box || picture.crop) && (
        <div className="button-rows">
          {box && (
            <Button
              size="small"
              onClick={() => void change({ crop: [round(box.x), round(box.y), round(box.w), round(box.h)] })}
            >
              Crop to what is shown
            </Button>
          )}
          {picture.crop && (
            <Button size="small" onClick={() => void change({ clear: ["crop"] })}>
              Show all of it
            </Button>
          )}
        </div>
      )}
      <div className="value-line">
        <span className="quiet small">contrast</span>
        <Slider
          className="wide"
          min={0.4}
          max={3}
          step={0.1}
          defaultValue={picture.contrast ?? 1}
          aria-label="Contrast"
          onChangeComplete={(contrast) => void change({ contrast })}
        />
      </div>
    </section>
  );
}
