import type { ComponentProps } from "react";

/** A file input that looks like a button. Its accessible name is `children`. */
export function FileButton({
  children,
  className = "",
  ...input
}: Omit<ComponentProps<"input">, "type"> & { children: React.ReactNode }) {
  return (
    <label
      className={`button cursor-pointer focus-within:outline-2 focus-within:outline-ink focus-within:outline-offset-2 ${className}`}
    >
      {children}
      <input type="file" className="sr-only" {...input} />
    </label>
  );
}
