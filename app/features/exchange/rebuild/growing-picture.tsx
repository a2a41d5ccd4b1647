import type { Picture } from "../../../../exchange/rebuild/picture.ts";
import { type Placed, placePicture } from "./place-picture.ts";

interface GrowingPictureProps {
  picture: Picture;
  at: number;
  onAt: (line: number) => void;
}

/** Topology so far: the device, its interfaces, its neighbours in outline, and the networks behind them. */
export function GrowingPicture({ picture, at, onAt }: GrowingPictureProps) {
  const { items, wires, width, height } = placePicture(picture);
  const there = (line: number) => line <= at;
  return (
    <div className="max-h-[62vh] overflow-auto border border-rule bg-panel">
      <svg width={width} height={height} role="img" aria-label="Topology so far">
        {wires.map(({ id, line, path, dashed }) =>
          there(line) ? (
            <path
              key={id}
              d={path}
              fill="none"
              stroke={line === at ? "var(--ink)" : "var(--iron)"}
              strokeWidth={line === at ? 2.5 : 1.5}
              strokeDasharray={dashed ? "5 4" : undefined}
            />
          ) : null,
        )}
        {items.map((item) =>
          there(item.line) ? (
            <Item key={item.id} item={item} fresh={item.line === at && at > 0} onAt={onAt} />
          ) : null,
        )}
      </svg>
    </div>
  );
}

function Item({ item, fresh, onAt }: { item: Placed; fresh: boolean; onAt: (line: number) => void }) {
  const { x, y, width, title, below, dashed, kind, line } = item;
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: by keyboard the lines are gone through beside, which show the same.
    <g
      data-part={item.id}
      data-from-line={line}
      onClick={() => line > 0 && onAt(line)}
      className={line > 0 ? "cursor-pointer" : ""}
    >
      <rect
        x={x}
        y={y - 15}
        width={width}
        height={30}
        rx={kind === "network" ? 15 : 3}
        fill={fresh ? "var(--chosen-soft)" : kind === "device" ? "var(--sunk)" : "var(--panel)"}
        stroke={kind === "discarded" ? "var(--stop)" : "var(--iron)"}
        strokeWidth={fresh ? 2.5 : 1.5}
        strokeDasharray={dashed ? "5 4" : undefined}
      />
      <text x={x + width / 2} y={y + 4} textAnchor="middle" fontSize={12} fill="var(--ink)" className="addr">
        {title}
      </text>
      {below !== "" && (
        <text x={x + width / 2} y={y + 27} textAnchor="middle" fontSize={11} fill="var(--ink-2)">
          {below}
        </text>
      )}
    </g>
  );
}
