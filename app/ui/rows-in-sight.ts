import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef, useState } from "react";

/** Lists up to this length are drawn in full by default: they can be searched and printed like any page. */
const FEW = 100;

/** The visible rows of a list by position, with the heights of the rows left out before and after. `height` is the
 * approximate row height, `few` the length up to which all rows are drawn. The list is anywhere inside a scrolling part
 * of the page. */
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
