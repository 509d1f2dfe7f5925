import { Button, Checkbox, ColorPicker, Input, Slider, Switch } from "antd";
import { useBench } from "../job/context";
import { useAppearance } from "./appearance";

interface Props {
  id: string;
  name: string;
  opacity: number;
  /** What its picks are blocked by; the scan on the bench has one for all its states. */
  pickId: string;
  ticked: boolean;
  onTick: (on: boolean) => void;
  onOpacity: (share: number) => void;
  colour?: string;
  /** It can be coloured and called otherwise. */
  own?: boolean;
  /** What hangs on it can be unfolded. */
  branch?: { open: boolean; onOpen: () => void };
}

/** One scan or body: whether it is drawn, how see-through it is, and whether a click can take it. */
export function ThingRow({ id, name, opacity, pickId, ticked, onTick, onOpacity, colour, own, branch }: Props) {
  const { edit } = useBench();
  const look = useAppearance();
  const free = !look.unpickable.includes(pickId);
  return (
    <tr>
      <td className="thing-first">
        {branch && (
          <Button
            type="text"
            size="small"
            aria-expanded={branch.open}
            aria-label={`What ${name} is made of`}
            title="its size, its material and the steps that made it"
            onClick={branch.onOpen}
          >
            {branch.open ? "▾" : "▸"}
          </Button>
        )}
        <Checkbox
          aria-label={`Take ${name} into a group`}
          checked={ticked}
          onChange={(e) => onTick(e.target.checked)}
        />
      </td>
      <td>
        {own && (
          <ColorPicker
            size="small"
            value={colour ?? null}
            onChangeComplete={(c) =>
              void edit({ op: "set-body", id, colour: c.toHexString().slice(0, 7).toLowerCase() })
            }
          />
        )}
      </td>
      <td>
        {own ? (
          <Input
            key={name}
            size="small"
            aria-label={`Name of ${name}`}
            defaultValue={name}
            onKeyDown={(e) => {
              e.stopPropagation();
              if (e.key === "Enter") e.currentTarget.blur();
            }}
            onBlur={(e) =>
              e.target.value.trim() &&
              e.target.value !== name &&
              void edit({ op: "set-body", id, name: e.target.value.trim() })
            }
          />
        ) : (
          name
        )}
      </td>
      <td>
        <Switch
          size="small"
          aria-label={`${name} is shown`}
          checked={!look.hidden.includes(id)}
          onChange={(on) => (on ? look.show : look.hide)([id])}
        />
      </td>
      <td>
        <Slider
          ariaLabelForHandle={`Opacity of ${name}`}
          value={Math.round(opacity * 100)}
          onChange={(v) => onOpacity(v / 100)}
        />
      </td>
      <td>
        <Switch
          size="small"
          aria-label={`${name} can be picked`}
          checked={free}
          onChange={(on) =>
            look.set({
              unpickable: on ? look.unpickable.filter((x) => x !== pickId) : [...look.unpickable, pickId],
            })
          }
        />
      </td>
    </tr>
  );
}
