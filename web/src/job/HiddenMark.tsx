import { useAppearance } from "../view/appearance";

/** Says in its row that a thing is hidden, and shows it again. */
export function HiddenMark({ id, name }: { id: string; name: string }) {
  const { hidden, show } = useAppearance();
  if (!hidden.includes(id)) return null;
  return (
    <button
      type="button"
      className="hidden-mark"
      aria-label={`${name} is hidden: show it`}
      title="show it"
      onClick={(e) => {
        e.stopPropagation();
        show([id]);
      }}
    >
      hidden
    </button>
  );
}
