/** The product's sign. */
export function Mark({ size }: { size: number }) {
  return (
    <svg viewBox="0 0 24 24" width={size} height={size} aria-hidden="true">
      <path d="M4 2v4c0 4 3 6 6 7v9h4v-9c3-1 6-3 6-7V2h-4v4c0 2-2 3-4 3S8 8 8 6V2z" fill="currentColor" />
    </svg>
  );
}
