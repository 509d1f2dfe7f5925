import { useQueryClient } from "@tanstack/react-query";
import { Button, Dropdown, Select } from "antd";
import { useState } from "react";
import { api, got, type Picture } from "../api/client";
import { asJob } from "../api/queries";
import { FileDoor } from "../intake/FileDoor";
import { accept } from "../intake/files";
import { useSendFile } from "../intake/useSendFile";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { PictureBench } from "./PictureBench";
import { usePhoto } from "./store";

/** Photos and drawings: one on the desk, straightened, scaled and measured. */
export function PhotoDesk() {
  const { job, tell, edit, scanId } = useBench();
  const close = useTool((s) => s.close);
  const { picture: id, open } = usePhoto();
  const client = useQueryClient();
  const send = useSendFile();
  const [busy, setBusy] = useState(false);
  const pictures = job.recipe.evidence.filter((e): e is Picture => e.kind === "picture");
  const picture = pictures.find((p) => p.id === id) ?? pictures[0];
  const bring = async (chosen: File, role: "photo" | "drawing") => {
    setBusy(true);
    try {
      const next = await send("pictures", chosen, { role });
      open(next.recipe.evidence.findLast((e) => e.kind === "picture")?.id ?? null);
    } catch (e) {
      tell(e);
    } finally {
      setBusy(false);
    }
  };
  const sheet = async () => {
    try {
      const params = { path: { job_id: job.id }, query: { version: job.version } };
      const next = asJob(await got(api.POST("/api/jobs/{job_id}/pictures/blank", { params })));
      client.setQueryData(["job", job.id], next);
      open(next.recipe.evidence.findLast((e) => e.kind === "picture")?.id ?? null);
      usePhoto.getState().use("stroke");
    } catch (e) {
      tell(e);
    }
  };
  const draw = async (along: "x" | "y" | "z") => {
    setBusy(true);
    try {
      const params = { path: { job_id: job.id } };
      const body = { version: job.version, scan: scanId, along };
      const next = asJob(await got(api.POST("/api/jobs/{job_id}/pictures/silhouette", { params, body })));
      client.setQueryData(["job", job.id], next);
      open(next.recipe.evidence.findLast((e) => e.kind === "picture")?.id ?? null);
    } catch (e) {
      tell(e);
    } finally {
      setBusy(false);
    }
  };
  return (
    <main className="desk photo-desk" aria-label="Photo desk">
      <header className="desk-head photo-head">
        <h1>Photo desk</h1>
        {pictures.length > 0 && (
          <Select
            aria-label="Picture on the desk"
            value={picture?.id ?? null}
            options={pictures.map((p) => ({ value: p.id, label: p.name }))}
            onChange={open}
          />
        )}
        {picture && (
          <Button
            type="text"
            onClick={() => {
              open(null);
              void edit({ op: "drop-picture", id: picture.id });
            }}
          >
            Take it away
          </Button>
        )}
        <div className="top-gap" />
        {(["photo", "drawing"] as const).map((role) => (
          <FileDoor
            key={role}
            label={`${role === "photo" ? "Photo" : "Drawing"} file`}
            accept={accept("picture")}
            loading={busy}
            onFiles={([one]) => one && void bring(one, role)}
          >
            Bring in a {role}
          </FileDoor>
        ))}
        <Button onClick={() => void sheet()}>Sketch by hand</Button>
        {scanId && (
          <Dropdown
            menu={{
              items: ["z", "x", "y"].map((axis) => ({ key: axis, label: `seen along ${axis}` })),
              onClick: ({ key }) => void draw(key as "z"),
            }}
          >
            <Button loading={busy}>Draw the scan ▾</Button>
          </Dropdown>
        )}
        <Button onClick={close}>Back to the bench</Button>
      </header>
      {picture ? (
        <PictureBench key={picture.id} picture={picture} />
      ) : (
        <p className="empty">
          No pictures yet. Lay the part on a sheet or card of known size, photograph it from straight above, and bring
          the photo in (PNG or JPEG); or bring in an old drawing (PNG, JPEG or PDF) and type its dimensions where they
          stand.
        </p>
      )}
    </main>
  );
}
