export function Brand() {
  return (
    <span className="brand">
      <svg viewBox="0 0 32 32" aria-hidden="true">
        <path d="M7 22V13a6 6 0 0 1 6-6h6" className="brand-solid" />
        <path d="M25 10v9a6 6 0 0 1-6 6h-6" className="brand-dash" />
      </svg>
      Usable Contour
    </span>
  );
}
