import { type ReactNode, useEffect, useRef, useState } from "react";
import { useBringIn } from "./useBringIn";
import { useWaiting } from "./waiting";

const holdsFiles = (e: React.DragEvent) => e.dataTransfer.types.includes("Files");

/** The whole bench takes dropped files, and those that have waited for it since the shelf. */
export function DropAnywhere({ children }: { children: ReactNode }) {
  const { busy, bring } = useBringIn();
  const [over, setOver] = useState(false);
  const now = useRef(bring);
  now.current = bring;
  useEffect(() => {
    const files = useWaiting.getState().take();
    if (files.length) void now.current(files);
  }, []);
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: every file can also be brought in by a button
    <div
      className="drop-anywhere"
      onDragOver={(e) => {
        if (!holdsFiles(e)) return;
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={(e) => {
        if (!e.currentTarget.contains(e.relatedTarget as Node | null)) setOver(false);
      }}
      onDrop={(e) => {
        if (!holdsFiles(e)) return;
        e.preventDefault();
        setOver(false);
        void bring([...e.dataTransfer.files]);
      }}
    >
      {children}
      {over && <div className="drop-over">Drop: scans, solids, photos, drawings, tables of readings</div>}
      {busy && (
        <div className="drop-busy" role="status">
          bringing in {busy} …
        </div>
      )}
    </div>
  );
}
