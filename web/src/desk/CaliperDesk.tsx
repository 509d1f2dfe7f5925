import { Button } from "antd";
import { useEffect, useRef } from "react";
import type { Reading } from "../api/client";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { CaliperPanel } from "./CaliperPanel";
import { DerivedValues } from "./DerivedValues";
import { freeName, isReading } from "./facts";
import { MadeAgain } from "./MadeAgain";
import { ReadingSheet } from "./ReadingSheet";
import { ReadingTable } from "./ReadingTable";
import { ScaleCheck } from "./ScaleCheck";
import { Sessions } from "./Sessions";
import { SizesBeside } from "./SizesBeside";
import { TableFile } from "./TableFile";
import { ThreadFinder } from "./ThreadFinder";
import { useCollect } from "./useCollect";
import { useDesk, useFocus } from "./useDesk";

/** Readings as a table, the one in focus with its takes, and what is measured with. */
export function CaliperDesk() {
  const { job, edit } = useBench();
  const close = useTool((s) => s.close);
  const focus = useFocus();
  const { data: desk } = useDesk();
  useCollect();
  const readings: Reading[] = job.recipe.evidence.filter(isReading);
  const facts = job.readings;
  const focused = readings.find((r) => r.id === focus.reading);
  const sessions = job.recipe.sessions ?? [];
  const session = sessions.find((s) => s.id === focus.session) ?? sessions.at(-1);
  const { set } = focus;
  // A reading that was just made is in focus before the job that holds it has arrived.
  const fresh = useRef<string | null>(null);
  useEffect(() => {
    if (!focused && readings[0] && (focus.reading === null || focus.reading !== fresh.current))
      set({ reading: readings[0].id });
    if (session && session.id !== focus.session) set({ session: session.id });
  }, [focused, readings, session, focus.reading, focus.session, set]);
  const add = async () => {
    const id = crypto.randomUUID();
    const name = freeName([...readings, ...(job.recipe.values ?? [])].map((x) => x.name));
    fresh.current = id;
    if (await edit({ op: "set-reading", id, name, takes: [] })) set({ reading: id });
    else fresh.current = null;
  };
  return (
    <main className="desk" aria-label="Caliper desk">
      <section className="desk-main">
        <header className="desk-head">
          <h1>Caliper desk</h1>
          <div className="top-gap" />
          <TableFile />
          <Button type="primary" onClick={() => void add()}>
            New reading
          </Button>
          <Button onClick={close}>Back to the bench</Button>
        </header>
        {readings.length === 0 ? (
          <p className="empty">
            No readings yet. Make one, give it the name that formulas will use, and measure it several times: the spread
            tells how far its mean can be trusted.
          </p>
        ) : (
          <ReadingTable readings={readings} facts={facts} desk={desk} />
        )}
        <SizesBeside desk={desk} />
        <DerivedValues desk={desk} />
        <ThreadFinder readings={readings} facts={facts} />
        <ScaleCheck desk={desk} />
        <MadeAgain readings={readings} facts={facts} />
      </section>
      <aside className="desk-side">
        {focused && <ReadingSheet key={focused.id} reading={focused} facts={facts[focused.id]} desk={desk} />}
        <CaliperPanel session={session} focused={focused} desk={desk} />
        <Sessions desk={desk} session={session} />
      </aside>
    </main>
  );
}
