import type { ComponentProps } from "react";

type Look = "plain" | "strong" | "chosen" | "danger" | "quiet";

const looks: Record<Look, string> = {
  plain: "button",
  strong: "button button-strong",
  chosen: "button button-chosen",
  danger: "button border-stop text-stop",
  quiet: "name-link text-ink-2",
};

interface Looking {
  look?: Look;
}

/** A button that does something here; it submits a form only where `type` says so. */
export function Button({
  look = "plain",
  type = "button",
  className = "",
  ...rest
}: ComponentProps<"button"> & Looking) {
  return <button type={type} className={`${looks[look]} ${className}`} {...rest} />;
}
