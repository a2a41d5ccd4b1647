import { pathOf } from "../../drawing/lines.ts";
import type { Drawing } from "../../drawing/types.ts";
import { plateOutline } from "../../ui/plate.tsx";

interface BookDrawingProps {
  drawing: Drawing;
  roles: Readonly<Record<string, string>>;
  labels: Readonly<Record<string, string>>;
}

/** The network's drawing for paper: black on white, each device by its name. */
export function BookDrawing({ drawing, roles, labels }: BookDrawingProps) {
  return (
    <svg
      xmlns="http://www.w3.org/2000/svg"
      viewBox={`-8 -8 ${drawing.width + 16} ${drawing.height + 16}`}
      role="img"
      aria-label="The network"
      className="drawing"
    >
      {drawing.sites.map((site) => (
        <g key={site.id}>
          <rect x={site.x} y={site.y} width={site.width} height={site.height} rx="4" fill="#f1eee6" />
          <text x={site.x + 8} y={site.y + 16} fontSize="13" fill="#5a6268" fontFamily="Barlow, sans-serif">
            {site.id}
          </text>
        </g>
      ))}
      {drawing.edges.map((edge) => (
        <path
          key={`${edge.link} ${edge.part}`}
          d={pathOf(edge.points)}
          fill="none"
          stroke="#39434b"
          strokeWidth="1.5"
        />
      ))}
      {drawing.nodes.map((node) => (
        <g key={`${node.kind} ${node.id}`} transform={`translate(${node.x} ${node.y})`}>
          <path
            d={
              node.kind === "link"
                ? `M0 0H${node.width}V${node.height}H0z`
                : plateOutline(roles[node.id] ?? "host", node.width, node.height)
            }
            fill={node.kind === "link" ? "#39434b" : "#ffffff"}
            stroke="#39434b"
            strokeWidth="1.5"
          />
          {node.kind === "device" && (
            <text
              x={node.width / 2}
              y={node.height / 2 + 5}
              textAnchor="middle"
              fontSize="14"
              fill="#1f262b"
              fontFamily="Barlow, sans-serif"
            >
              {labels[node.id] ?? node.id}
            </text>
          )}
        </g>
      ))}
    </svg>
  );
}
