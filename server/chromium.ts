import { accessSync, constants } from "node:fs";

const places = ["/usr/bin/chromium-headless-shell", "/usr/bin/chromium"];

/** Where Debian's Chromium is: where CHROMIUM says, or where its packages put it; null where there is none. */
export function findChromium(): string | null {
  const { CHROMIUM } = process.env;
  return (CHROMIUM ? [CHROMIUM] : places).find(isProgram) ?? null;
}

function isProgram(path: string): boolean {
  try {
    accessSync(path, constants.X_OK);
    return true;
  } catch {
    return false;
  }
}
