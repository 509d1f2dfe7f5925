import { Button } from "antd";
import type { ReactNode } from "react";
import { FileDoor } from "../intake/FileDoor";
import { accept } from "../intake/files";

interface Props {
  busy: boolean;
  onFiles: (files: File[]) => void;
  onBare: () => void;
}

function Door({ title, mark, children }: { title: string; mark: string; children: ReactNode }) {
  return (
    <section className="door" aria-label={title}>
      <svg className="door-mark" viewBox="0 0 48 48" aria-hidden="true">
        <path d={mark} />
      </svg>
      <h3>{title}</h3>
      {children}
    </section>
  );
}

/** The three ways a job begins, side by side; each says what it takes. */
export function Doors({ busy, onFiles, onBare }: Props) {
  return (
    <div className="doors">
      <Door
        title="From a scan"
        mark="M8 34 L16 14 L32 10 L41 27 L26 40 Z M16 14 L26 40 M32 10 L24 26 L8 34 M24 26 L41 27"
      >
        <p className="quiet">A mesh of the part: STL, OBJ, PLY, 3MF or VRML, up to 500 MB; also packed (ZIP, GZ).</p>
        <FileDoor
          label="Scan file"
          accept={accept("mesh", "solid", "picture", "table")}
          several
          type="primary"
          loading={busy}
          onFiles={onFiles}
        >
          Choose a scan
        </FileDoor>
      </Door>
      <Door title="From a solid" mark="M10 17 L25 10 L39 16 L39 33 L24 41 L10 34 Z M10 17 L24 23 L39 16 M24 23 L24 41">
        <p className="quiet">
          A supplier's or an earlier part: STEP or IGES. Its faces stay as they are and can be changed.
        </p>
        <FileDoor
          label="Solid file"
          accept={accept("solid", "mesh", "picture", "table")}
          several
          loading={busy}
          onFiles={onFiles}
        >
          Choose a solid
        </FileDoor>
      </Door>
      <Door
        title="From readings alone"
        mark="M9 14 V34 M9 19 H39 M39 14 V34 M16 19 V24 M22 19 V27 M28 19 V24 M34 19 V27"
      >
        <p className="quiet">Caliper readings, photos with a scale, an old drawing. A scan can follow later.</p>
        <Button onClick={onBare} disabled={busy}>
          Begin with readings
        </Button>
      </Door>
    </div>
  );
}
