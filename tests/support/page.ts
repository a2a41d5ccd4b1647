import { cleanup } from "@testing-library/react";
import { afterEach, vi } from "vitest";

/** What the stand-in for a browser lacks and the primitives ask for. Imported by tests of components. */
for (const name of ["hasPointerCapture", "setPointerCapture", "releasePointerCapture", "scrollIntoView"]) {
  if (!(name in Element.prototype)) Object.defineProperty(Element.prototype, name, { value: vi.fn() });
}

afterEach(cleanup);
