import { accessSync, constants } from "node:fs";

const places = ["/usr/bin/chromium-headless-shell", "/usr/bin/chromium"];

/** The path of Debian's Chromium: from CHROMIUM, or its packages' default; null if missing. */
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
