import { parseAddress, parseInterfaceAddress } from "../../../core/address/index.ts";
import { Collector, type Fate } from "../../facts/index.ts";
import type { Layout, TokenRole } from "../../layout.ts";
import { Meanings } from "../meanings.ts";
import { firstLines, type InputFile, linesOf, type Reader, type ReaderOptions } from "../reader.ts";
import { readWords, takeRouteFields } from "../route-fields.ts";
import { type Column, columnsOf, headCells } from "./heads.ts";
import { legendOf } from "./legend.ts";
import { keyed, type LineContext, type LineParts, readByColumns, readByRoles, readByShape } from "./line.ts";
import { recognised, rolesOf, shapeOfLine } from "./roles.ts";
import { looksLikeInterface, tokensOf } from "./tokens.ts";

interface At {
  readonly file: string;
  readonly line: number;
  readonly text: string;
}

/** A route being assembled from its lines: the first line and its next hops. */
interface Open {
  readonly at: At;
  readonly parts: LineParts;
  readonly ways: { at: At; parts: LineParts }[];
}

/** Words that may stand before "vrf" in a head, and behind it before the name. */
const BEFORE_VRF = new Set("routing route forwarding ip ipv4 ipv6 table instance for of".split(" "));
const BEHIND_VRF = new Set(["name", "table", "instance"]);

/** The VRF in a heading such as "VRF: red" or "Routing table for VRF red:"; null for other lines. */
function vrfHeadIn(line: string): string | null {
  if (!/vrf/i.test(line)) return null;
  const words = line.split(/[\s:="']+/).map((word) => word.replace(/^[^A-Za-z0-9]{1,20}/, ""));
  const told = words.filter((word) => word !== "");
  const at = told.findIndex((word) => word.toLowerCase() === "vrf");
  if (at < 0 || !told.slice(0, at).every((word) => BEFORE_VRF.has(word.toLowerCase()))) return null;
  const behind = told.slice(at + 1);
  const [name] = behind.length === 2 && BEHIND_VRF.has(behind[0].toLowerCase()) ? behind.slice(1) : behind;
  const alone = behind.length === 1 || name === behind[1];
  return alone && name !== undefined && /^[A-Za-z0-9][\w.-]*$/.test(name) ? name : null;
}

/** The head of an interface's block. */
const isPortHead = (line: string) => {
  const [word, name, colon = ":", ...rest] = line.trimEnd().split(/\s+/);
  const announced = /^(?:interface|port|iface|link|device)$/i.test(word);
  return announced && name !== undefined && colon === ":" && rest.length === 0;
};
const FRAME = /^[\s|+=*:_-]+$/;

/** How many lines a name must stand on, behind what every line has, to be taken for an interface's. */
const RECURS = 2;

/**
 * Reads a text table by the shapes of its tokens, with or without a head, in lines or in blocks (no layout is built in).
 * What its words mean comes from a legend in the text, or is asked.
 */
class TableReading {
  private columns: readonly Column[] | null = null;
  private vrf = "";
  /** The interface whose block is read. */
  private port: string | null = null;
  private open: Open | null = null;
  private readonly routes: Open[] = [];
  private readonly context: LineContext;
  private readonly options: ReaderOptions;
  private readonly legendLines: ReadonlySet<number>;
  readonly lines: readonly string[];
  /** The layouts that the text is of. */
  readonly layouts: readonly Layout[];

  constructor(
    private readonly file: InputFile,
    private readonly into: Collector,
    options: ReaderOptions,
    private readonly onLine?: (line: number, raw: string, parts: LineParts) => void,
  ) {
    this.lines = linesOf(file, into);
    const legend = legendOf(this.lines);
    this.legendLines = legend.lines;
    this.layouts = recognised(this.lines, options.layouts ?? []);
    const taught = this.layouts.flatMap(({ words }) => Object.entries(words));
    this.options = {
      ...options,
      layouts: this.layouts,
      meanings: new Meanings().with(legend.meanings).with(taught).with(options.meanings.entries()),
    };
    const names = recurringNames(this.lines, this.options);
    this.context = {
      options: this.options,
      isInterface: (text) => into.hasInterface(text) || names.has(text),
    };
  }

  read() {
    for (const [i, raw] of this.lines.entries()) {
      if (raw.trim() === "") {
        continue;
      }
      this.readLine(i, raw);
    }
    const marked = (meaning: string) =>
      this.routes.some(({ parts }) => parts.words.some((word) => this.meaningsOf(word).includes(meaning)));
    const silence = marked("inactive") ? true : marked("active") ? false : null;
    for (const route of this.routes) this.take(route, silence);
  }

  private readLine(i: number, raw: string) {
    const at = { file: this.file.name, line: i + 1, text: raw };
    if (FRAME.test(raw)) return this.into.fate(at, "known", "table frame");
    if (this.legendLines.has(i)) return this.into.fate(at, "taken", "legend of codes");
    const columns = columnsOf(raw);
    if (columns) {
      this.columns = columns;
      this.open = null;
      return this.into.fate(at, "taken", "column headers");
    }
    const vrf = vrfHeadIn(raw);
    if (vrf !== null) {
      this.vrf = vrf;
      this.open = null;
      return this.into.fate(at, "taken", `the following lines are in VRF ${this.vrf}`);
    }
    const taught = this.layoutOf(raw);
    const columnsHere = taught ?? this.columns;
    const byRoles = this.byRoles(raw);
    const byColumns = byRoles ?? (columnsHere && readByColumns(raw, columnsHere, this.context));
    const sound = byColumns && (byColumns.to ?? byColumns.own ?? byColumns.via) !== null ? byColumns : null;
    const parts = byRoles ?? sound ?? readByShape(raw, this.context);
    this.onLine?.(i + 1, raw, parts);
    this.place(at, parts);
  }

  /** By the roles that a layout teaches for lines of this shape. */
  private byRoles(raw: string): LineParts | null {
    const { layouts } = this;
    if (layouts.length === 0) return null;
    const shape = shapeOfLine(raw);
    const roles = layouts.find(({ shapes }) => Object.hasOwn(shapes, shape))?.shapes[shape];
    return roles ? readByRoles(raw, roles, this.context) : null;
  }

  /** The columns of a taught layout with the line's number of cells; null if there is none. */
  private layoutOf(raw: string): readonly Column[] | null {
    const cells = headCells(raw);
    const layout = this.layouts.find(({ columns }) => columns?.length === cells.length);
    return layout?.columns?.map((role, i) => ({ role, start: cells[i].start, end: cells[i].end })) ?? null;
  }

  /** Starts a route, continues the one above, or handles a line without a route. */
  private place(at: At, parts: LineParts) {
    const { to, own, via, out, hardware } = parts;
    if (to === null && own === null && via === null && out !== null && isPortHead(at.text)) {
      this.port = out;
      this.open = null;
      this.into.interface(out, {});
      return this.into.fate(at, "taken", `the interface ${out}`);
    }
    if (hardware !== null && to === null && via !== null) return this.takeNeighbour(at, parts);
    const isInterface = own !== null || (this.columns?.some(({ role }) => role === "address") && to !== null);
    if (isInterface) return this.takeInterface(at, { ...parts, own: own ?? to });
    if (to !== null) {
      this.open = { at, parts: { ...parts, vrf: parts.vrf || this.vrf }, ways: [{ at, parts }] };
      this.routes.push(this.open);
      return;
    }
    const says =
      via !== null ||
      out !== null ||
      parts.distance ||
      parts.metric ||
      parts.vrf ||
      parts.words.some((word) => this.meaningsOf(word).length > 0);
    const goesOn = this.open && (/^\s/.test(at.text) || via !== null);
    if (!says || !goesOn || !this.open) {
      return this.into.fate(
        at,
        says && via !== null ? "not-understood" : "known",
        says && via !== null ? "a next hop without a destination" : "heading or text without a route",
      );
    }
    this.goOn(this.open, at, parts);
  }

  /** A line without a destination: the rest of the way above, or a further one. */
  private goOn(open: Open, at: At, parts: LineParts) {
    const last = open.ways[open.ways.length - 1];
    const free =
      last.parts.via === null && (last.parts.out === null || parts.via !== null || parts.out === null);
    if (free || parts.via === null) {
      Object.assign(last.parts, {
        via: last.parts.via ?? parts.via,
        out: last.parts.out ?? parts.out,
        distance: last.parts.distance || parts.distance,
        metric: last.parts.metric || parts.metric,
      });
      open.parts.words.push(...parts.words);
      open.parts.vrf ||= parts.vrf;
      open.parts.table ||= parts.table;
      return this.into.fate(at, "taken", `continuation of the route to ${open.parts.to}`);
    }
    open.ways.push({ at, parts });
  }

  private take(route: Open, silence: boolean | null) {
    const { parts, ways } = route;
    for (const { at, parts: way } of ways) {
      const family = [way.via, ...ways.map((other) => other.parts.via)].find((text) => text !== null);
      const to = parts.to === "default" ? (this.isIpv6(family) ? "::/0" : "0.0.0.0/0") : (parts.to as string);
      const words = [...new Set([...parts.words, ...way.words])].flatMap((word) => this.expand(word));
      const told = readWords(words, this.options).active;
      takeRouteFields(
        {
          to,
          via: way.via ?? "",
          out: way.out ?? "",
          vrf: parts.vrf,
          table: parts.table,
          distance: way.distance || ways[0].parts.distance,
          metric: way.metric || ways[0].parts.metric,
          words,
          active: told === null && silence !== null ? String(silence) : "",
        },
        at,
        this.into,
        this.options,
      );
    }
  }

  private isIpv6(via: string | null | undefined): boolean {
    if (via) return parseAddress(via)?.family === 6;
    return this.routes.some(({ parts }) => parts.to?.includes(":"));
  }

  /** A code with marks around it: as it stands where that has a meaning, else its letters, and the marks that have one. */
  private expand(word: string): string[] {
    const { meanings } = this.options;
    if (meanings.of(word) !== null) return [word];
    const letters = word.replace(/[^\p{L}\p{N}-]/gu, "");
    const each = [...word];
    if (each.length > 1 && each.every((letter) => meanings.wasTold(letter))) return each;
    const marks = [...word.replace(/[\p{L}\p{N}-]/gu, "")].filter((mark) => meanings.of(mark) !== null);
    return [...(letters === "" ? [] : [letters]), ...marks];
  }

  private meaningsOf(word: string): string[] {
    return this.expand(word).flatMap((part) => this.options.meanings.of(part) ?? []);
  }

  private takeInterface(at: At, parts: LineParts) {
    const name =
      parts.out ?? parts.words.find((word) => looksLikeInterface(word)) ?? parts.words[0] ?? this.port;
    const read = parseInterfaceAddress(parts.own ?? "");
    if (!name || !read) return this.into.fate(at, "doubtful", `the address ${parts.own} has no interface`);
    this.into.interface(name, {
      addresses: [parts.own as string],
      vrf: parts.vrf || this.vrf || null,
      hardware: parts.hardware,
    });
    this.into.fate(at, "taken", `the interface ${name} with ${parts.own}`);
  }

  private takeNeighbour(at: At, { via, hardware, out }: LineParts) {
    const entry = { address: via as string, hardware: canonical(hardware as string), interface: out };
    const fresh = this.into.add("neighbours", entry);
    this.into.fate(at, fresh ? "taken" : "known", `the neighbor ${via}${out ? ` on ${out}` : ""}`);
  }
}

function canonical(hardware: string): string {
  const digits = hardware.toLowerCase().replace(/[^0-9a-f]/g, "");
  return digits.match(/../g)?.join(":") ?? hardware;
}

/** Words that stand behind a next hop or a destination on several lines, and mean nothing else: names of interfaces. */
function recurringNames(lines: readonly string[], { meanings }: ReaderOptions): Set<string> {
  const counts = new Map<string, number>();
  for (const line of lines) {
    const tokens = tokensOf(line);
    const last = tokens.at(-1);
    const at = tokens.findIndex(({ shape }) => shape === "prefix" || shape === "address");
    if (at < 0 || !last || tokens.indexOf(last) <= at || last.shape !== "word") continue;
    if (meanings.of(last.text) === null) counts.set(last.text, (counts.get(last.text) ?? 0) + 1);
  }
  return new Set([...counts].filter(([, count]) => count >= RECURS).map(([name]) => name));
}

/** A text table with the role of each token, for showing and for teaching. */
export interface ColouredTable {
  readonly file: string;
  readonly lines: readonly {
    readonly line: number;
    readonly text: string;
    /** The group that the line is of; "" for lines that are read as no row. */
    readonly shape: string;
    readonly tokens: readonly { readonly start: number; readonly end: number; readonly role: TokenRole }[];
    readonly fate: Fate | null;
    readonly detail: string;
  }[];
  /** The layouts that were recognised, by name. */
  readonly layouts: readonly string[];
}

/** Reads a text table and reports each token's role, for at most `most` lines. */
export function colourTable(file: InputFile, options: ReaderOptions, most: number): ColouredTable {
  const into = new Collector("");
  const rows = new Map<
    number,
    { shape: string; tokens: { start: number; end: number; role: TokenRole }[] }
  >();
  const reading = new TableReading(file, into, options, (line, raw, parts) => {
    if (line > most) return;
    const tokens = rolesOf(raw, parts).map(({ token: { start, end }, role }) => ({ start, end, role }));
    rows.set(line, { shape: shapeOfLine(raw), tokens });
  });
  reading.read();
  const fates = new Map(into.fates.map((fate) => [fate.line, fate]));
  const texts = reading.lines.slice(0, most);
  return {
    file: file.name,
    lines: texts.map((text, i) => {
      const { shape = "", tokens = [] } = rows.get(i + 1) ?? {};
      const { fate = null, detail = "" } = fates.get(i + 1) ?? {};
      return { line: i + 1, text, shape, tokens, fate, detail };
    }),
    layouts: reading.layouts.map(({ name }) => name),
  };
}

/** Any text table. It reads what no other reader knows better. */
export const anyTable: Reader = {
  kind: "text table",
  recognises({ text }) {
    const lines = firstLines(text, 400);
    const telling = lines.some((line) =>
      tokensOf(keyed(line)).some(({ shape }) => shape === "prefix" || shape === "address"),
    );
    return telling ? 0.3 : 0;
  },
  read: (file, into, options) => new TableReading(file, into, options).read(),
};
