import type { SiteSign } from "./scene.ts";

/** A site that is folded into one sign: a click comes near. */
export function SiteButton({ sign, onShow }: { sign: SiteSign; onShow: () => void }) {
  const { x, y, width, height, id } = sign.site;
  const text = `${id}: ${sign.devices} devices${sign.down ? `, ${sign.down} down` : ""}`;
  return (
    // biome-ignore lint/a11y/useSemanticElements: a part of a drawing cannot be an HTML button.
    <g
      role="button"
      tabIndex={0}
      aria-label={`Zoom in on ${text}`}
      className="group cursor-pointer"
      onClick={onShow}
      onKeyDown={(event) => {
        if (event.key !== "Enter" && event.key !== " ") return;
        event.preventDefault();
        onShow();
      }}
    >
      <title>{text}</title>
      <rect
        x={x}
        y={y}
        width={width}
        height={height}
        fill="transparent"
        stroke="var(--ink)"
        strokeWidth="3"
        vectorEffect="non-scaling-stroke"
      />
    </g>
  );
}
