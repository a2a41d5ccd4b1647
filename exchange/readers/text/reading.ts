import { type Prefix, parseInterfaceAddress } from "../../../core/address/index.ts";
import type { Collector } from "../../facts/index.ts";
import type { Layout, TokenRole } from "../../layout.ts";
import { Meanings, states } from "../meanings.ts";
import { type InputFile, linesOf, type ReaderOptions } from "../reader.ts";
import { blocksOf } from "./blocks.ts";
import { type CleanLine, cleanLines } from "./clean.ts";
import { type Column, cellsOf, columnsOf, separatorOf } from "./columns.ts";
import { ConfigReading } from "./config.ts";
import { emitRoute, type Located, type OpenRoute, settleRoutes } from "./emit.ts";
import type { Entry } from "./entry.ts";
import { recognised, shapeOfLine } from "./layouts.ts";
import { legendOf } from "./legend.ts";
import {
  type LineContext,
  type LineReading,
  partsOfCode,
  readByColumns,
  readByRoles,
  readByShape,
} from "./line.ts";
import { memo } from "./memo.ts";
import type { Question } from "./numbers.ts";
import {
  dividedPrefixIn,
  indentOf,
  isDated,
  isFrame,
  isNetwork,
  isOtherMatter,
  isPortHead,
  promptIn,
  vrfHeadIn,
} from "./segments.ts";
import { looksLikeInterface, tokensOf } from "./tokens.ts";
import { vocabularyOf } from "./words.ts";

/** The points that a line needs to count as a row of a table. */
const MIN_EVIDENCE = 1;

/** Values that a heading gives to the lines below it. */
interface Shared {
  readonly indent: number;
  readonly entry: Entry;
}

/** The interface that a line without an address names first: "eth0: flags", "lan  Link"; null for other lines. */
function headOf({ entry, tokens }: LineReading): string | null {
  const [first] = tokens;
  if (first?.shape !== "word" || entry.to !== null || entry.own !== null || entry.via !== null) return null;
  return first.announces || looksLikeInterface(first.text) || tokens.length > 1 ? first.text : null;
}

/**
 * Reads a text by inference over the whole of it: terminal control is removed; prompts, legends, headings and totals are
 * told apart from rows; the roles of tokens come from headings, keys, types and codes; rows, continuation lines and blocks
 * are put together as routes, interfaces and neighbors. No layout of any device is built in.
 */
export class TextReading {
  private columns: readonly Column[] | null = null;
  private vrf = "";
  /** The interface whose block is read. */
  private port: string | null = null;
  /** The first word of the last line that is not indented, if it can be an interface's name. */
  private head: string | null = null;
  private divided: Prefix | null = null;
  private shared: Shared | null = null;
  /** Words of a heading such as "Static routes". */
  private title: readonly string[] = [];
  private open: OpenRoute | null = null;
  /** Lines of a block before the one with its destination. */
  private pending: { block: number; lines: { at: Located; reading: LineReading }[] } | null = null;
  private readonly routes: OpenRoute[] = [];
  private readonly config: ConfigReading;
  private readonly context: LineContext;
  private readonly options: ReaderOptions;
  private readonly legendLines: ReadonlySet<number>;
  private readonly blocks: ReadonlyMap<number, number>;
  private readonly tokens = memo(tokensOf);
  readonly lines: readonly CleanLine[];
  /** The layouts that the text matches. */
  readonly layouts: readonly Layout[];

  constructor(
    private readonly file: InputFile,
    private readonly into: Collector,
    options: ReaderOptions,
    private readonly onLine?: (line: CleanLine, reading: LineReading) => void,
  ) {
    this.lines = cleanLines(linesOf(file, into));
    const texts = this.lines.map(({ text }) => text);
    this.config = new ConfigReading(texts, into);
    const legend = legendOf(texts, this.tokens);
    this.legendLines = legend.lines;
    this.blocks = blocksOf(texts, this.tokens);
    this.layouts = recognised(texts, options.layouts ?? []);
    const taught = this.layouts.flatMap(({ words }) => Object.entries(words));
    const meanings = new Meanings().with(legend.meanings).with(taught).with(options.meanings.entries());
    this.options = { ...options, layouts: this.layouts, meanings };
    this.context = {
      ...vocabularyOf(texts, this.tokens, meanings, (name) => into.hasInterface(name)),
      meanings,
      tokensOf: this.tokens,
      meaningsOf: memo((word) => partsOfCode(word, meanings).flatMap((part) => meanings.of(part) ?? [])),
      lengthUnder: (address) =>
        this.divided && isNetwork(address, this.divided.length) ? this.divided.length : null,
    };
  }

  /** Reads all lines; returns the questions that the text leaves open. */
  read(): Question[] {
    for (const [i, line] of this.lines.entries()) {
      for (const no of line.wrapped)
        this.into.fate({ ...this.at(line), line: no }, "known", `continues line ${line.no}`);
      if (line.text.trim() !== "") this.readLine(i, line);
      else this.endBlock();
    }
    this.dropPending();
    const questions = settleRoutes(
      this.routes,
      this.context,
      this.file.name,
      this.options.roles ?? new Map(),
    );
    const silence = this.silence();
    const exits = new Set(
      this.routes.flatMap(({ ways }) =>
        ways.flatMap(({ reading: { entry } }) => (entry.via && entry.out ? [entry.out] : [])),
      ),
    );
    for (const route of this.routes) emitRoute(route, silence, exits, this.context, this.into, this.options);
    return questions;
  }

  private at({ no, text }: CleanLine): Located {
    return { file: this.file.name, line: no, text };
  }

  /** A blank line ends what a heading above gave to the lines below, unless they are indented. */
  private endBlock() {
    if (this.shared && this.shared.indent === 0) this.shared = null;
  }

  /** Whether a route without a mark is active: if others are marked as inactive it is, if others are marked as active not. */
  private silence(): boolean | null {
    const isMarked = (meaning: string) =>
      this.routes.some(({ words }) => words.some((word) => this.context.meaningsOf(word).includes(meaning)));
    return isMarked("inactive") ? true : isMarked("active") ? false : null;
  }

  private readLine(i: number, line: CleanLine) {
    const at = this.at(line);
    const { text } = line;
    if (isFrame(text)) return this.into.fate(at, "known", "table frame");
    const prompt = promptIn(text);
    if (prompt) {
      this.reset();
      return this.into.fate(at, "known", prompt.command === "" ? "prompt" : "prompt and command");
    }
    if (this.legendLines.has(i)) return this.into.fate(at, "known", "legend of codes");
    if (this.columns === null && this.config.take(at)) {
      this.open = null;
      return;
    }
    const vrf = vrfHeadIn(text);
    if (vrf !== null) {
      [this.vrf, this.open, this.title] = [vrf, null, []];
      return this.into.fate(
        at,
        "known",
        vrf === "" ? "the following lines are in the main VRF" : `the following lines are in VRF ${vrf}`,
      );
    }
    const columns = columnsOf(text);
    if (columns) {
      this.columns = columns;
      this.open = null;
      return this.into.fate(at, "known", "column headings");
    }
    const divided = dividedPrefixIn(text, this.tokens(text));
    if (divided) {
      [this.divided, this.open] = [divided, null];
      return this.into.fate(at, "known", "heading: the length of the subnets below");
    }
    const reading = this.reading(text);
    this.onLine?.(line, reading);
    if (indentOf(text) === 0) this.head = headOf(reading);
    this.place(i, at, reading);
  }

  private reset() {
    [this.columns, this.vrf, this.port, this.divided, this.shared, this.open] = [
      null,
      "",
      null,
      null,
      null,
      null,
    ];
    this.title = [];
  }

  private reading(text: string): LineReading {
    const { layouts } = this;
    if (layouts.length > 0) {
      const shape = shapeOfLine(text);
      const roles: readonly TokenRole[] | undefined = layouts.find(({ shapes }) =>
        Object.hasOwn(shapes, shape),
      )?.shapes[shape];
      const byRoles = roles && readByRoles(text, roles, this.context);
      if (byRoles) return byRoles;
    }
    const columns = this.taughtColumns(text) ?? this.columns;
    const byColumns = columns && readByColumns(text, columns, this.context);
    const says = byColumns && (byColumns.entry.to ?? byColumns.entry.own ?? byColumns.entry.via) !== null;
    return byColumns && says ? byColumns : readByShape(text, this.context);
  }

  /** The columns of a taught layout with the line's number of cells; null if there is none. */
  private taughtColumns(text: string): readonly Column[] | null {
    const separator = separatorOf(text);
    const cells = separator
      ? cellsOf(text, separator)
      : [...text.matchAll(/\S+/g)].map((found) => ({
          start: found.index,
          end: found.index + found[0].length,
        }));
    const layout = this.layouts.find(({ columns }) => columns?.length === cells.length);
    return (
      layout?.columns?.map((role, i) => ({ role, name: "", start: cells[i].start, end: cells[i].end })) ??
      null
    );
  }

  /** Starts a route, continues the one above, or handles a line without a route. */
  private place(i: number, at: Located, reading: LineReading) {
    const { entry, tokens, by } = reading;
    const { to, own, via, out, hardware } = entry;
    const isRow = by !== "shape" || reading.evidence >= MIN_EVIDENCE;
    if (
      by === "shape" &&
      (isDated(at.text) || isOtherMatter(at.text)) &&
      !entry.words.some((word) => this.context.meanings.wasTold(word))
    )
      return this.into.fate(
        at,
        (to ?? own ?? via) ? "not-understood" : "known",
        "a line of a log, a filter or another list",
      );
    if (hardware !== null && to === null && via !== null) return this.takeNeighbour(at, entry);
    const ofAddresses = this.columns?.some(({ role }) => role === "address") && by === "columns";
    if (own !== null || (ofAddresses && to !== null)) return this.takeInterface(i, at, reading, isRow);
    if (to !== null) return this.startRoute(i, at, reading, isRow);
    if (this.takeHeading(i, at, reading)) return;
    if (via === null && out !== null && this.blocks.get(i) === undefined && isPortHead(tokens)) {
      [this.port, this.open] = [out, null];
      this.into.interface(out, {});
      return this.into.fate(at, "taken", `the interface ${out}`);
    }
    this.continueRoute(i, at, reading);
  }

  private startRoute(i: number, at: Located, reading: LineReading, isRow: boolean) {
    const { entry } = reading;
    const indent = indentOf(at.text);
    if (this.shared && indent <= this.shared.indent) this.shared = null;
    if (entry.faults.length > 0 || !isRow) {
      this.open = null;
      const why = entry.faults[0] ?? "a network among words without a place in a route";
      return this.into.fate(at, "not-understood", why);
    }
    const shared = this.shared?.entry;
    entry.via ??= shared?.via ?? null;
    if (entry.out === null && shared?.out) [entry.out, reading.outIsKnown] = [shared.out, true];
    const hasSource = entry.words.some((word) =>
      this.context.meaningsOf(word).some((meaning) => !states.has(meaning)),
    );
    const words = hasSource ? [] : [...(shared?.words ?? []), ...this.title];
    this.open = {
      at,
      to: entry.to as string,
      vrf: entry.vrf || this.vrf,
      table: entry.table,
      words: [...entry.words, ...words],
      ways: [{ at, reading }],
      block: this.blocks.get(i) ?? null,
      question: null,
      assumption: null,
    };
    this.routes.push(this.open);
    const { pending } = this;
    this.pending = null;
    if (!pending) return;
    if (pending.block !== this.open.block) return this.dropPending();
    for (const line of pending.lines) this.continueRoute(i, line.at, line.reading);
  }

  /** Lines of a block without a destination say nothing. */
  private dropPending() {
    for (const { at } of this.pending?.lines ?? [])
      this.into.fate(at, "known", "heading or text without a route");
    this.pending = null;
  }

  /** A line that gives its next hop, interface or source to the lines below it. False for other lines. */
  private takeHeading(i: number, at: Located, { entry, tokens }: LineReading): boolean {
    const { via, out, words } = entry;
    const meant = words.flatMap((word) => this.context.meaningsOf(word));
    const isShort = tokens.length <= 6 && entry.openNumbers.length <= 1;
    const indent = indentOf(at.text);
    const isOfRoute = this.open !== null && indent > indentOf(this.open.at.text);
    const says = via !== null || out !== null || meant.length > 0;
    if (!says || !isShort || isOfRoute || this.blocks.get(i) !== undefined) return false;
    const next = this.lines.slice(i + 1, i + 3).find(({ text }) => text.trim() !== "" && !isFrame(text));
    if (!next || readByShape(next.text, this.context).entry.to === null) return false;
    const isTitle =
      meant.some((meaning) => !states.has(meaning)) &&
      via === null &&
      (/:\s*$/.test(at.text) || tokens.length <= 3);
    if (indentOf(next.text) > indent) this.shared = { indent, entry };
    else if (isTitle) [this.title, this.shared] = [words, null];
    else return false;
    this.open = null;
    this.into.fate(at, "known", "heading of the lines below");
    return true;
  }

  /** A line without a destination: the rest of the route above, or a further next hop. */
  private continueRoute(i: number, at: Located, reading: LineReading) {
    const { entry, evidence } = reading;
    const block = this.blocks.get(i);
    if (block !== undefined && this.open?.block !== block) {
      if (this.pending?.block !== block) this.dropPending();
      this.pending ??= { block, lines: [] };
      this.pending.lines.push({ at, reading });
      return;
    }
    const { via, out } = entry;
    const hasMeaning = entry.words.some((word) => this.context.meaningsOf(word).length > 0);
    const says =
      via !== null ||
      out !== null ||
      entry.distance !== "" ||
      entry.metric !== "" ||
      entry.vrf !== "" ||
      hasMeaning;
    const { open } = this;
    const isSameBlock = block !== undefined && open?.block === block;
    const isBelow =
      open !== null &&
      (indentOf(at.text) > indentOf(open.at.text) || (via !== null && evidence > 0) || isSameBlock);
    const isPlausible = isSameBlock || entry.strange.length <= 1;
    if (
      !open ||
      !says ||
      !isBelow ||
      !isPlausible ||
      (open.block !== null && !isSameBlock && block !== undefined)
    ) {
      const orphan = via !== null && says && isPlausible;
      return this.into.fate(
        at,
        orphan ? "not-understood" : "known",
        orphan ? "a next hop without a destination" : "heading or text without a route",
      );
    }
    const lastReading = open.ways[open.ways.length - 1].reading;
    const last = lastReading.entry;
    const isRest =
      via === null || (last.via === null && (last.out === null || out === null || last.out === out));
    if (!isRest) {
      open.ways.push({ at, reading });
      return;
    }
    last.via ??= via;
    // An interface on a line of its own, or with a next hop, has its place.
    if (last.out === null && out !== null) lastReading.outIsKnown = true;
    last.out ??= out;
    last.distance ||= entry.distance;
    last.metric ||= entry.metric;
    open.words.push(...entry.words);
    open.vrf ||= entry.vrf;
    open.table ||= entry.table;
    this.into.fate(at, "taken", `continuation of the route to ${open.to}`);
  }

  /** The interface named above an indented address: in its block, or by the last line that is not indented. */
  private nameAbove(i: number, at: Located): string | null {
    const block = this.blocks.get(i);
    const named = this.pending?.block === block ? this.pending?.lines : [];
    for (const { reading } of named ?? []) {
      const [key, value] = reading.tokens;
      if (key && value && /^(?:name|interface|port|iface|ifname|if)$/i.test(key.text)) return value.text;
    }
    return indentOf(at.text) > 0 ? this.head : null;
  }

  private takeInterface(i: number, at: Located, { entry, by, outIsKnown }: LineReading, isRow: boolean) {
    const own = entry.own ?? entry.to;
    this.open = null;
    const read = parseInterfaceAddress(own ?? "");
    const named = entry.out ?? entry.words.find((word) => this.isName(word)) ?? this.port;
    const name = named ?? this.nameAbove(i, at);
    const isNamed = entry.out !== null || named === null || name === this.port || by === "columns";
    const isSure = entry.out === null || outIsKnown || this.into.hasInterface(entry.out);
    if (
      !read ||
      !name ||
      !isSure ||
      entry.via ||
      entry.faults.length > 0 ||
      (!isRow && !(isNamed && entry.strange.length <= 1))
    )
      return this.into.fate(at, "not-understood", `the address ${own} has no interface`);
    const isOff = entry.words.some((word) => /^(?:disabled|shutdown|admin-down)$/i.test(word));
    this.into.interface(name, {
      addresses: [own as string],
      vrf: entry.vrf || this.vrf || null,
      hardware: entry.hardware,
      enabled: isOff ? false : null,
    });
    this.into.fate(at, "taken", `the interface ${name} with ${own}`);
  }

  private isName(word: string): boolean {
    return this.context.isInterface(word) || this.context.meanings.of(word) === null;
  }

  private takeNeighbour(at: Located, { via, hardware, out }: Entry) {
    const entry = { address: via as string, hardware: canonical(hardware as string), interface: out };
    const fresh = this.into.add("neighbours", entry);
    this.into.fate(at, fresh ? "taken" : "known", `the neighbor ${via}${out ? ` on ${out}` : ""}`);
  }
}

function canonical(hardware: string): string {
  const digits = hardware.toLowerCase().replace(/[^0-9a-f]/g, "");
  return digits.match(/../g)?.join(":") ?? hardware;
}
