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

/** A button with an action on the page; it submits a form only if `type` says "submit". */
export function Button({
  look = "plain",
  type = "button",
  className = "",
  ...rest
}: ComponentProps<"button"> & Looking) {
  return <button type={type} className={`${looks[look]} ${className}`} {...rest} />;
}
