import { pathOf } from "../../drawing/lines.ts";
import type { Drawing } from "../../drawing/types.ts";
import { plateOutline } from "../../ui/plate.tsx";

/** A plan's drawing without words, small. */
export function SmallDrawing({ drawing, roles }: { drawing: Drawing; roles: Record<string, string> }) {
  if (drawing.nodes.length === 0) return <p className="p-4 text-ink-2">Empty plan.</p>;
  return (
    <svg viewBox={`0 0 ${drawing.width} ${drawing.height}`} className="h-full w-full" aria-hidden="true">
      {drawing.sites.map((site) => (
        <rect
          key={site.id}
          x={site.x}
          y={site.y}
          width={site.width}
          height={site.height}
          rx="4"
          fill="var(--sunk)"
        />
      ))}
      {drawing.edges.map((edge) => (
        <path
          key={`${edge.link} ${edge.part}`}
          d={pathOf(edge.points)}
          fill="none"
          stroke="var(--iron)"
          strokeWidth="3"
        />
      ))}
      {drawing.nodes.map((node) => (
        <path
          key={`${node.kind} ${node.id}`}
          transform={`translate(${node.x} ${node.y})`}
          d={
            node.kind === "link"
              ? `M0 0H${node.width}V${node.height}H0z`
              : plateOutline(roles[node.id] ?? "host", node.width, node.height)
          }
          fill={node.kind === "link" ? "var(--iron)" : "var(--panel)"}
          stroke="var(--iron)"
          strokeWidth="3"
        />
      ))}
    </svg>
  );
}
