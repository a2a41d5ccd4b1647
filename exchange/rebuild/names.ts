/** A device's id in the plan's form: lower case, hyphens for what is no letter or digit. */
export function idOf(name: string): string {
  const id = name
    .normalize("NFD")
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-+|-+$/g, "")
    .slice(0, 60);
  return id || "device";
}

/** The first of "name", "name-2", "name-3" … that is not taken; it is taken from then on. */
export function takeName(wanted: string, taken: Set<string>): string {
  let name = wanted;
  for (let n = 2; taken.has(name); n++) name = `${wanted}-${n}`;
  taken.add(name);
  return name;
}

/** An interface's name in the plan's form. */
export function interfaceNameOf(name: string): string {
  return (
    name
      .replace(/[^A-Za-z0-9._:/-]/g, "-")
      .replace(/^[^A-Za-z0-9]+/, "")
      .slice(0, 63) || "unnamed"
  );
}
