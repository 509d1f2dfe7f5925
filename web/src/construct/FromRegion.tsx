import { Button } from "antd";
import { useKinds } from "../api/kinds";
import { byRegion } from "../pick/begunBy";
import { MoreKinds } from "../pick/MoreKinds";
import type { Begun } from "../pick/starts";
import { useBegin } from "../sheets/useBegin";

/** What usually follows from a region: what the kinds of steps declare that begin with one. */
export function FromRegion({ region, shape, diameter }: { region: string; shape: string; diameter: string | null }) {
  const begin = useBegin();
  const offers = byRegion(useKinds(), shape, region, diameter);
  const open = ({ kind, params }: Begun) => begin(kind, params);
  return (
    <>
      {offers
        .filter((o) => !o.seldom)
        .map((o) => (
          <Button key={o.kind.id} title={o.kind.help} onClick={() => open(o)}>
            {o.title}
          </Button>
        ))}
      <MoreKinds offers={offers.filter((o) => o.seldom)} onBegin={open} />
    </>
  );
}
