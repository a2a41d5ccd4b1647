import { DrawnButton } from "../drawn-button.tsx";
import type { SiteSign } from "./scene.ts";

/** A site that is folded into one sign: a click comes near. */
export function SiteButton({ sign, onShow }: { sign: SiteSign; onShow: () => void }) {
  const { x, y, width, height, id } = sign.site;
  const text = `${id}: ${sign.devices} devices${sign.down ? `, ${sign.down} down` : ""}`;
  return (
    <DrawnButton label={`Zoom in on ${text}`} onPress={onShow}>
      <title>{text}</title>
      <rect
        {...{ x, y, width, height }}
        fill="transparent"
        stroke="var(--ink)"
        strokeWidth="3"
        vectorEffect="non-scaling-stroke"
      />
    </DrawnButton>
  );
}
