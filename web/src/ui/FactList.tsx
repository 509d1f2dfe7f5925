import { Copyable } from "./Copyable";

interface Props {
  /** What the facts are about. */
  name: string;
  rows: readonly (readonly [string, string])[];
  className?: string;
}

/** Names with their values, one below the other. */
export function FactList({ name, rows, className = "fact-list" }: Props) {
  return (
    <Copyable name={name}>
      <dl className={className}>
        {rows.map(([key, value]) => (
          <div key={key}>
            <dt>{key}</dt>
            <dd>{value}</dd>
          </div>
        ))}
      </dl>
    </Copyable>
  );
}
