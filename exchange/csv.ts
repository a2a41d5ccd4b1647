/** Rows as comma-separated values (RFC 4180): lines end with CR LF; a field with a comma, a quote or a line break is quoted. */
export function writeCsv(rows: readonly (readonly string[])[]): string {
  return rows.map((row) => `${row.map(field).join(",")}\r\n`).join("");
}

function field(text: string): string {
  return /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}
