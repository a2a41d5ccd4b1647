export function versions(): Record<string, string>;
