import { plain } from "./text/vocabulary.ts";

/** The meanings of words and codes in a text: static, connected, local, inactive, active, discard, reject, or a
 * protocol. */
export class Meanings {
  private readonly told: ReadonlyMap<string, string>;

  constructor(told: Iterable<readonly [string, string]> = []) {
    this.told = new Map(told);
  }

  /** With more meanings; earlier ones have precedence. */
  with(more: Iterable<readonly [string, string]>): Meanings {
    return new Meanings([...more, ...this.told]);
  }

  /** The meaning of a word; words of the trade explain themselves. Null if unknown. */
  of(word: string): string | null {
    return this.told.get(word) ?? ownMeanings.get(plain(word)) ?? null;
  }

  /** Whether its meaning was given rather than being a word of the trade. */
  wasTold(word: string): boolean {
    return this.told.has(word);
  }

  /** All given meanings. */
  entries(): IterableIterator<[string, string]> {
    return this.told.entries() as IterableIterator<[string, string]>;
  }
}

/** Names of routing protocols of open standards. */
export const protocolNames =
  /^(?:ospf(?:v[23])?|bgp|ibgp|ebgp|rip(?:v2|ng)?|is-?is|dhcp|ra|babel|ndp?|icmpv?6?|ike|pim|mpls|ldp|nhrp)$/;

const list = (text: string, meaning: string) => text.split(" ").map((word) => [word, meaning] as const);

/** Words of the trade and of open standards with a fixed meaning, in English, German, French, Spanish, Italian and
 * Portuguese. */
const ownMeanings = new Map<string, string>([
  ..."ospf ospfv2 ospfv3 bgp rip ripng isis dhcp ra babel".split(" ").map((word) => [word, word] as const),
  ["is-is", "isis"],
  ...list("static statisch statique estatica estatico statico statica", "static"),
  ...list(
    "connected direct attached on-link onlink verbunden angeschlossen direkt connecte connectee conectada conectado directa directo connesso " +
      "connessa collegata diretta diretto direta direto",
    "connected",
  ),
  ...list("local lokal locale", "local"),
  ...list("active aktiv actif activa activo attiva attivo ativa ativo", "active"),
  ...list("inactive inaktiv inactif inactiva inactivo inattiva inattivo inativa inativo standby", "inactive"),
  ...list("discard blackhole null null0 drop verwerfen verworfen", "discard"),
  ...list("reject unreachable prohibit", "reject"),
]);

/** Meanings that say something of a route besides where it came from. */
export const states = new Set(["inactive", "active", "discard", "reject", "ignored"]);
