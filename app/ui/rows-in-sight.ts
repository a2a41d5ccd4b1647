import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef, useState } from "react";

/** Lists of no more rows are drawn whole, unless told otherwise: they can be searched and printed as any page. */
const FEW = 100;

/**
 * The rows of a list that are in sight, by their positions, with the heights of what is left out before and after them.
 * `height` is about that of a row, `few` how many rows are drawn whole. The list stands in a part
 * of the page that scrolls, anywhere in it.
 */
export function useRowsInSight<T extends HTMLElement>(count: number, height: number, few = FEW) {
  const list = useRef<T>(null);
  const [scrollMargin, setMargin] = useState(0);
  const virtual = useVirtualizer({
    count,
    enabled: count > few,
    getScrollElement: () => scrollerOf(list.current),
    estimateSize: () => height,
    overscan: 12,
    initialRect: { width: 1000, height: 800 },
    scrollMargin,
  });
  useEffect(() => {
    const scroller = scrollerOf(list.current);
    if (!scroller || !list.current) return;
    const top =
      list.current.getBoundingClientRect().top - scroller.getBoundingClientRect().top + scroller.scrollTop;
    setMargin(Math.round(top));
  });
  if (count <= few) {
    return {
      list,
      rows: Array.from({ length: count }, (_, n) => n),
      before: 0,
      after: 0,
      measure: undefined,
    };
  }
  const items = virtual.getVirtualItems();
  const before = Math.max(0, (items[0]?.start ?? scrollMargin) - scrollMargin);
  const after = Math.max(0, virtual.getTotalSize() + scrollMargin - (items.at(-1)?.end ?? scrollMargin));
  return { list, rows: items.map(({ index }) => index), before, after, measure: virtual.measureElement };
}

/** The nearest part of the page around an element that scrolls down. */
function scrollerOf(element: HTMLElement | null): HTMLElement | null {
  for (let at = element?.parentElement ?? null; at; at = at.parentElement) {
    if (/auto|scroll/.test(getComputedStyle(at).overflowY)) return at;
  }
  return element ? document.documentElement : null;
}
