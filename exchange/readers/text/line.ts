import type { TokenRole } from "../../layout.ts";
import type { Meanings } from "../meanings.ts";
import { type Column, cellsOf, placedBelow, separatorOf } from "./columns.ts";
import { type Entry, type EntryContext, emptyEntry, store } from "./entry.ts";
import { looksLikeInterface, type Token, type Tokenizer, tokensOf } from "./tokens.ts";
import { isFiller, isUnit, MAX_PHRASE, type Role, roleOf } from "./vocabulary.ts";
import type { Vocabulary } from "./words.ts";

/** What is known of a text when its lines are read one by one. */
export interface LineContext extends EntryContext, Vocabulary {
  readonly tokensOf: Tokenizer;
  /** The meanings of a code: its own, or those of its letters and marks. */
  meaningsOf(word: string): readonly string[];
}

/** How a line was read, with the evidence that it belongs to a table. */
export interface LineReading {
  readonly tokens: readonly Token[];
  readonly entry: Entry;
  readonly by: "layout" | "columns" | "shape";
  /** Whether the interface is named by a heading, a key, or its form. */
  outIsKnown: boolean;
  /** Columns of the numbers that stay open, by slot. */
  readonly slotNames: ReadonlyMap<string, string>;
  /** Points for keys, codes and structure, less those for words without a place. */
  readonly evidence: number;
}

/** A line below a heading; null if it does not fit. */
export function readByColumns(
  text: string,
  columns: readonly Column[],
  context: LineContext,
): LineReading | null {
  const separator = columns.length > 2 ? separatorOf(text) : null;
  const tokens: Token[] = [];
  const places: number[] = [];
  if (separator) {
    const cells = cellsOf(text, separator);
    if (cells.length > columns.length || cells.length < columns.length - 2) return null;
    for (const [c, cell] of cells.entries())
      for (const token of tokensOf(text.slice(cell.start, cell.end))) {
        tokens.push({ ...token, start: token.start + cell.start, end: token.end + cell.start });
        places.push(c);
      }
  } else {
    tokens.push(...context.tokensOf(text));
    if (tokens.some(({ announces }, i) => announces && i < tokens.length - 1)) return null;
    const placed = placedBelow(tokens, columns);
    if (!placed) return null;
    places.push(...placed);
  }
  const entry = emptyEntry(tokens);
  const slotNames = new Map<string, string>();
  for (const [i, token] of tokens.entries()) {
    const column = columns[places[i]];
    const mask = maskFor(
      tokens,
      i,
      (j) => columns[places[j]]?.role === "mask" || (places[j] === places[i] && isMask(tokens[j])),
    );
    if (column.role === "open" && token.shape === "number") {
      const slot = `column ${places[i]}`;
      slotNames.set(slot, column.name);
      entry.openNumbers.push({ token: i, value: Number(token.text), slot });
      continue;
    }
    if (isMask(token) && places[i - 1] === places[i] && (column.role === "to" || column.role === "address")) {
      entry.roles[i] = "mask";
      continue;
    }
    if (token.shape === "prefix" && /ignored|open|note/.test(column.role)) {
      if (/\d/.test(token.text)) entry.faults.push("a second network on the line");
      continue;
    }
    if (!store(column.role, token, i, mask, entry, context)) return null;
  }
  return {
    tokens,
    entry,
    by: "columns",
    slotNames,
    evidence: 3,
    outIsKnown: columns.some(({ role }) => role === "out"),
  };
}

const isMask = (token: Token | undefined) => token?.shape === "mask" || token?.shape === "length";

/** The token that states the length of the address at a place. */
function maskFor(tokens: readonly Token[], i: number, isOne: (j: number) => boolean): Token | undefined {
  if (tokens[i].shape !== "address" && tokens[i].shape !== "mask") return undefined;
  for (let j = i + 1; j < tokens.length; j++) if (isOne(j)) return tokens[j];
  return undefined;
}

/** A line with taught roles; null if a token does not fit its role. */
export function readByRoles(
  text: string,
  roles: readonly TokenRole[],
  context: LineContext,
): LineReading | null {
  const tokens = context.tokensOf(text);
  if (tokens.length !== roles.length) return null;
  const entry = emptyEntry(tokens);
  for (const [i, token] of tokens.entries()) {
    const role = roles[i];
    const mask = roles[i + 1] === "mask" ? tokens[i + 1] : undefined;
    // Interfaces may have names like durations.
    const named = role === "out" || role === "word" ? { ...token, shape: "word" as const } : token;
    if (!store(role, named, i, mask, entry, context)) return null;
  }
  return { tokens, entry, by: "layout", slotNames: new Map(), evidence: 9, outIsKnown: true };
}

interface Announced {
  readonly role: Role;
  readonly value: number;
}

/** The role that the words at a place announce, and the position of the value. */
function announcedAt(tokens: readonly Token[], i: number, context: LineContext): Announced | null {
  if (tokens[i].shape !== "word") return null;
  for (let n = MAX_PHRASE; n > 0; n--) {
    const words = tokens.slice(i, i + n);
    const value = tokens[i + n];
    if (
      !value ||
      words.length < n ||
      words.some(({ shape, announces }, k) => shape !== "word" || (announces && k < n - 1))
    )
      continue;
    const role = roleOf(words.map(({ text }) => text).join(" "));
    if (!role || (n === 1 && context.meanings.wasTold(tokens[i].text))) continue;
    // Nothing announces what is already a heading of its own.
    if (
      value.shape === "word" &&
      !words[n - 1].announces &&
      n === 1 &&
      roleOf(value.text) &&
      !context.isInterface(value.text)
    )
      return null;
    return { role, value: i + n };
  }
  return null;
}

/** A line without a heading, by the types of its tokens and the words that announce values. */
export function readByShape(text: string, context: LineContext): LineReading {
  return new ShapeReading(context.tokensOf(withoutComment(text)), context).read();
}

/** Marks of a comment behind the content of a line. */
const COMMENTS = [" # ", " // ", " ! "];

/** A line without the comment behind its content. */
function withoutComment(text: string): string {
  const at = COMMENTS.map((mark) => text.indexOf(mark)).filter((i) => i > 0);
  const end = Math.min(...at);
  return at.length > 0 && /\d/.test(text.slice(0, end)) ? text.slice(0, end) : text;
}

class ShapeReading {
  private readonly entry: Entry;
  private readonly slotNames = new Map<string, string>();
  private evidence = 0;
  private readonly leading: number[] = [];
  private readonly trailing: number[] = [];
  /** The first network of the line; -1 without one. */
  private readonly network: number;
  private numbers = 0;
  private outIsKnown = false;

  constructor(
    private readonly tokens: readonly Token[],
    private readonly context: LineContext,
  ) {
    this.entry = emptyEntry(tokens);
    this.network = tokens.findIndex((token, i) => this.isNetwork(token, i));
  }

  /** Whether a token is a prefix, or an address with its length. */
  private isNetwork(token: Token, i: number): boolean {
    if (token.shape === "prefix") return /\d/.test(token.text) || this.mayBeDefault(i);
    return (
      token.shape === "address" && (this.maskOf(i) >= 0 || this.context.lengthUnder(token.text) !== null)
    );
  }

  /** "default" is a destination only at the beginning, behind codes, or where a word announces one. */
  private mayBeDefault(i: number): boolean {
    const next = this.tokens[i + 1];
    if (
      next &&
      /^(?:gateways?|routes?|routers?|gw|information|preference|metric|vrf|mode|is|was)$/i.test(next.text)
    )
      return false;
    return this.tokens.slice(0, i).every(({ text, shape }) => {
      const isCode = /^\S{1,3}$/.test(text) || this.context.meanings.of(text) !== null;
      return shape === "symbol" || isCode || roleOf(text) === "to" || roleOf(text) === "word";
    });
  }

  /** The position of the token that states an address's length; -1 without one. */
  private maskOf(i: number): number {
    const [next, after] = [this.tokens[i + 1], this.tokens[i + 2]];
    if (isMask(next)) return i + 1;
    const isKey = (key: Token | undefined, value: Token | undefined) =>
      key?.shape === "word" &&
      roleOf(key.text) === "mask" &&
      value &&
      (isMask(value) || value.shape === "number" || value.shape === "address");
    if (isKey(next, after)) return i + 2;
    // A mask with its key may stand behind other values of an announced address.
    const before = this.tokens[i - 1];
    if (before?.shape !== "word" || roleOf(before.text) !== "address") return -1;
    const later = this.tokens.findIndex(
      (token, k) => k > i && token.announces && isKey(token, this.tokens[k + 1]),
    );
    return later < 0 ? -1 : later + 1;
  }

  read(): LineReading {
    const { tokens, context } = this;
    for (let i = 0; i < tokens.length; i++) {
      const announced = announcedAt(tokens, i, context);
      if (announced) {
        const end = this.takeAnnounced(announced);
        if (end > 0) {
          i = end;
          continue;
        }
      }
      if (
        tokens[i].announces &&
        !announced &&
        tokens[i + 1] &&
        !this.isNetwork(tokens[i + 1], i + 1) &&
        roleOf(tokens[i].text) === null &&
        context.meanings.of(tokens[i].text) === null &&
        /number|duration|word|pair/.test(tokens[i + 1].shape) &&
        !context.isInterface(tokens[i].text)
      ) {
        // A key without a role: its value says nothing.
        i++;
        continue;
      }
      i = this.takeToken(i);
    }
    this.settleWords();
    this.evidence += this.points();
    return {
      tokens,
      entry: this.entry,
      by: "shape",
      slotNames: this.slotNames,
      evidence: this.evidence,
      outIsKnown: this.outIsKnown,
    };
  }

  /** Stores an announced value; the position of its last token, or -1 if it does not fit. */
  private takeAnnounced({ role, value }: Announced): number {
    const { tokens, entry, context } = this;
    const token = tokens[value];
    const mask = this.maskOf(value);
    const stored = () => store(role, token, value, tokens[mask], entry, context);
    switch (role) {
      case "to":
      case "address":
        if (entry.to !== null || entry.own !== null || !this.isNetwork(token, value) || !stored()) return -1;
        if (mask >= 0) entry.roles[mask] = "mask";
        this.evidence += 1;
        return mask > value + 2 ? value : Math.max(value, mask);
      case "via":
        if (token.shape === "word" && context.meanings.of(token.text) === null) return this.takeExit(value);
        if (entry.via !== null || !/address|word|symbol/.test(token.shape) || !stored()) return -1;
        this.evidence += 2;
        return value;
      case "out":
        if ((token.shape !== "word" && token.shape !== "duration") || entry.out !== null) return -1;
        if (isFiller(token.text) && !context.isInterface(token.text)) return -1;
        if (!stored()) return -1;
        this.outIsKnown =
          looksLikeInterface(token.text) || context.isInterface(token.text) || tokens[value - 1].announces;
        this.evidence += this.outIsKnown ? 1 : 0;
        return value;
      case "distance":
      case "metric":
      case "pair":
        if ((token.shape !== "number" && token.shape !== "pair") || !stored()) return -1;
        this.evidence += 1;
        return value;
      case "word":
      case "active":
        if (token.shape !== "word" && !(role === "active" && token.shape === "number")) return -1;
        if (!tokens[value - 1].announces && context.meanings.of(token.text) === null) return -1;
        if (isFiller(token.text) && context.meanings.of(token.text) === null && role === "word") return -1;
        this.evidence += stored() ? 1 : 0;
        return value;
      case "vrf":
      case "table":
        if (token.shape !== "word" && token.shape !== "number") return -1;
        return stored() ? value : -1;
      case "hardware":
        return token.shape === "hardware" && stored() ? value : -1;
      case "mask":
        return isMask(token) || token.shape === "address" || token.shape === "number" ? value : -1;
      case "note":
        // A description takes the rest of its line.
        return tokens[value - 1].announces ? tokens.length : -1;
      case "ignored":
        return /duration|number|address|mask/.test(token.shape) ||
          (tokens[value - 1].announces && token.shape === "word")
          ? value
          : -1;
      case "open":
        return -1;
    }
  }

  /** An interface behind a word such as "via"; the position, or -1 if it cannot be one. */
  private takeExit(value: number): number {
    const { entry, tokens } = this;
    const { text } = tokens[value];
    if (entry.out !== null || isFiller(text)) return -1;
    entry.out = text;
    entry.roles[value] = "out";
    this.outIsKnown = looksLikeInterface(text) || this.context.isCertain(text) || entry.via !== null;
    this.evidence += this.outIsKnown || this.context.isInterface(text) ? 1 : -1;
    return value;
  }

  /** Stores a token by its shape; the position of the last token that belongs to it. */
  private takeToken(i: number): number {
    const { tokens, entry, context, network } = this;
    const token = tokens[i];
    const isBehind = network < 0 || i > network;
    switch (token.shape) {
      case "prefix":
        if (!this.isNetwork(token, i)) return i;
        store("to", token, i, undefined, entry, context);
        if (entry.own !== null && entry.roles[i] === "to") entry.roles[i] = "address";
        return i;
      case "address":
      case "mask": {
        if (
          token.shape === "address" &&
          this.isNetwork(token, i) &&
          entry.to === null &&
          entry.own === null
        ) {
          const mask = this.maskOf(i);
          store("to", token, i, tokens[mask], entry, context);
          if (entry.own !== null) entry.roles[i] = "address";
          if (mask >= 0) entry.roles[mask] = "mask";
          return Math.max(i, mask);
        }
        if (token.shape === "address" && this.maskOf(i) >= 0) {
          entry.faults.push("a second network on the line");
          return this.maskOf(i);
        }
        if (entry.via === null && isBehind) store("via", token, i, undefined, entry, context);
        else entry.strange.push(token.text);
        return i;
      }
      case "pair":
        if (entry.distance === "" && entry.metric === "") {
          store("pair", token, i, undefined, entry, context);
          this.evidence += 2;
        }
        return i;
      case "number":
        this.takeNumber(i, isBehind);
        return i;
      case "hardware":
        store("hardware", token, i, undefined, entry, context);
        return i;
      case "duration":
        // Interfaces may have names like durations.
        if (context.isInterface(token.text) && entry.out === null)
          store("out", token, i, undefined, entry, context);
        return i;
      case "length":
        return i;
      case "symbol":
        if (context.meanings.of(token.text) !== null) store("word", token, i, undefined, entry, context);
        return i;
      case "word":
        // A quoted text, or what follows a mark for comments, is a note.
        if (/\s/.test(token.text)) return i;
        (network >= 0 && i < network ? this.leading : this.trailing).push(i);
        return i;
    }
  }

  private takeNumber(i: number, isBehind: boolean) {
    const { tokens, entry, context } = this;
    if (isUnit(tokens[i + 1]?.text ?? "")) return;
    if (tokens[i].bracketed && entry.distance === "" && isBehind) {
      store("distance", tokens[i], i, undefined, entry, context);
      this.evidence += 1;
      return;
    }
    const slot = isBehind ? `number ${++this.numbers}` : `before ${i}`;
    this.slotNames.set(slot, String(i + 1));
    entry.openNumbers.push({ token: i, value: Number(tokens[i].text), slot });
  }

  /** Words in front of the network are codes, or the interface; behind it one may be the interface. */
  private settleWords() {
    const { tokens, entry, context } = this;
    const rest = (list: readonly number[]) =>
      list.filter((i) => {
        const { text } = tokens[i];
        if (this.isMeant(text)) return !store("word", tokens[i], i, undefined, entry, context);
        return (
          !(isFiller(text) || isUnit(text) || roleOf(text) !== null || context.isLayoutWord(text)) ||
          context.isInterface(text)
        );
      });
    const leading = rest(this.leading);
    for (const i of leading) {
      const { text } = tokens[i];
      // A short name in front of a network is a code, unless an address of the device follows.
      const mayBePort = text.length > 3 || entry.own !== null || context.isCertain(text);
      const isPort = mayBePort && (context.isInterface(text) || looksLikeInterface(text));
      if (isPort && entry.out === null) this.name(i);
      else if (/^\S{1,3}$/.test(text)) store("word", tokens[i], i, undefined, entry, context);
      else if (i === leading[0]) {
        store("word", tokens[i], i, undefined, entry, context);
        if (!context.isLayoutWord(text)) this.evidence -= 1;
      } else entry.strange.push(text);
    }
    const trailing = rest(this.trailing);
    const codes = trailing.filter(
      (i) => /^[A-Z*]{1,2}$/.test(tokens[i].text) && !context.isInterface(tokens[i].text),
    );
    const names = trailing.filter((i) => !codes.includes(i));
    for (const i of codes) store("word", tokens[i], i, undefined, entry, context);
    const isPlaced = entry.to !== null || entry.own !== null || entry.via !== null;
    const mayBeAny = isPlaced || this.trailing.length <= 2 || (names.length === 1 && entry.distance !== "");
    const chosen =
      entry.out !== null
        ? undefined
        : (names.find((i) => context.isInterface(tokens[i].text)) ??
          names.find((i) => looksLikeInterface(tokens[i].text)) ??
          (!mayBeAny ? undefined : this.trailing.at(-1) === names.at(-1) ? names.at(-1) : names[0]) ??
          (names.length === 0 ? this.lastLayoutWord() : undefined));
    if (chosen !== undefined) this.name(chosen);
    for (const i of names) if (i !== chosen) entry.strange.push(tokens[i].text);
  }

  /** A word that recurs on all lines may still be the only interface. */
  private lastLayoutWord(): number | undefined {
    const last = this.trailing.at(-1);
    if (last === undefined) return undefined;
    const { text } = this.tokens[last];
    return !isFiller(text) &&
      roleOf(text) === null &&
      this.context.meanings.of(text) === null &&
      this.context.isInterface(text)
      ? last
      : undefined;
  }

  private name(i: number) {
    const { text } = this.tokens[i];
    this.entry.out = text;
    this.entry.roles[i] = "out";
    this.outIsKnown = this.context.isCertain(text) || looksLikeInterface(text) || i < this.network;
    this.evidence += this.outIsKnown || this.context.isInterface(text) ? 1 : -1;
  }

  /** Whether a word or code has a meaning, by itself or by its letters and marks. */
  private isMeant(text: string): boolean {
    return this.context.meaningsOf(text).length > 0;
  }

  private points(): number {
    const { entry, tokens, network } = this;
    const meant = entry.words.some((word) => this.isMeant(word));
    const told = entry.words.some((word) => this.context.meanings.wasTold(word));
    return (
      (entry.via ? 1 : 0) +
      (meant ? 2 : 0) +
      (told ? 1 : 0) +
      (entry.words.some((word) => this.context.isCode(word)) ? 1 : 0) +
      (network === 0 ? 1 : 0) +
      (tokens.length > 1 && entry.words.some((word) => word.length <= 3) ? 1 : 0) -
      entry.strange.length
    );
  }
}

/** The parts of a code that have meanings: the whole, or its letters and the marks around them. */
export function partsOfCode(word: string, meanings: Meanings): string[] {
  if (meanings.of(word) !== null) return [word];
  const letters = word.replace(/[^\p{L}\p{N}-]/gu, "");
  const each = [...word];
  if (each.length > 1 && each.every((letter) => meanings.wasTold(letter))) return each;
  const marks = [...word.replace(/[\p{L}\p{N}-]/gu, "")].filter((mark) => meanings.of(mark) !== null);
  return [...(letters === "" ? [] : [letters]), ...marks];
}
