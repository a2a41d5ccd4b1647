/** An id made from a label: lower case, with hyphens for other characters; "" if nothing remains. */
export function idOf(label: string): string {
  return label
    .normalize("NFD")
    .toLowerCase()
    .split(/[^a-z0-9]+/)
    .filter((word) => word !== "")
    .join("-")
    .slice(0, 60);
}

/** The first of "name", "name-2", "name-3" … that is not taken. */
export function freeName(wanted: string, isTaken: (name: string) => boolean, joint = "-"): string {
  let name = wanted;
  for (let n = 2; isTaken(name); n++) name = `${wanted}${joint}${n}`;
  return name;
}
