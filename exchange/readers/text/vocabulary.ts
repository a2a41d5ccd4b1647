/** What a column or a value can be. */
export type Role =
  | "to"
  | "mask"
  | "via"
  | "out"
  | "distance"
  | "metric"
  | "pair"
  | "word"
  | "active"
  | "vrf"
  | "table"
  | "address"
  | "hardware"
  | "note"
  | "ignored"
  /** Unknown: an address there is a next hop. */
  | "open";

/** Lower case without accents. */
export const plain = (text: string) => text.normalize("NFD").replace(/\p{M}/gu, "").toLowerCase();

/** Headings of columns and words before values, in English, German, French, Spanish, Italian and Portuguese. */
const headings: Readonly<Record<Role, string>> = {
  to: `destination, dest, dst, network, net, prefix, route, target, to, subnet, route to, destination network,
    destination prefix, ip prefix, network address, ziel, zielnetz, zielnetzwerk, netz, netzwerk, prafix, praefix, reseau,
    prefixe, cible, reseau de destination, destino, red, red destino, red de destino, prefijo, destinazione, rete,
    rete di destinazione, prefisso, rede, rede de destino, prefixo, net address, destination address, -net, -host`,
  mask: `mask, netmask, genmask, subnet mask, network mask, wildcard, len, length, plen, prefix length, prefixlen, bits, maske,
    netzmaske, subnetzmaske, prafixlange, lange, masque, masque reseau, longueur, mascara, longitud, maschera, lunghezza,
    comprimento, mascara de red, mascara de rede`,
  via: `via, gateway, gw, next hop, next-hop, nexthop, next_hop, nh, through, thru, towards, toward, forward to, forwarder,
    router, hop, next router, next address, uber, ueber, nachster hop, naechster hop, weiterleitung, nachste station, passerelle,
    prochain saut, saut suivant, par, puerta de enlace, puerta, pasarela, siguiente salto, proximo salto, prossimo hop,
    salto successivo, hop successivo, tramite, attraverso, proximo hop, salto seguinte, atraves, durch`,
  out: `interface, iface, if, intf, int, ifname, dev, device, port, out, oif, egress, egress interface, outgoing interface,
    output interface, out interface, exit interface, outgoing, exit, link, on, nic, out-if, local interface, out of, leaving by,
    schnittstelle, anschluss, ausgang, ausgangsschnittstelle, uber port, sortie, interface de sortie, interfaz, salida, puerto,
    interfaz de salida, interfaccia, uscita, porta, interfaccia di uscita, saida, interface de saida`,
  distance: `distance, dist, ad, pref, preference, admin distance, administrative distance, admin dist, route preference, adm,
    distanz, praferenz, praeferenz, administrative distanz, distance administrative, distancia, preferencia,
    distancia administrativa, distanza, preferenza, distanza amministrativa`,
  metric: `metric, met, cost, med, metrik, kosten, metrique, cout, metrica, coste, costo, custo, route metric`,
  pair: `dist/metric, distance/metric, pref/metric, preference/metric, ad/metric, pref/cost, dist/cost, distance/cost,
    distanz/metrik, distance/metrique, distancia/metrica, distanza/metrica, [dist/metric], [ad/metric]`,
  word: `source, proto, protocol, type, origin, code, codes, owner, learned, learned by, learned from, from, known via,
    kind, how, protokoll, herkunft, quelle, typ, art, protocole, origine, protocolo, origen, tipo, fuente, protocollo, fonte, origem, routing protocol, route type, route source`,
  open: `flag, flags, state, status, zustand, etat, statut, estado, stato`,
  active: `active, used, in use, best, aktiv, actif, activa, activo, attivo, attiva, ativo, ativa, selected, installed`,
  vrf: `vrf, instance, routing instance, vrf name, vr, virtual router, routing domain`,
  table: `table, table name, tabelle`,
  address: `address, ip address, ip, addresses, local address, ipv4, ipv6, ipv4 address, ipv6 address, adresse, ip-adresse,
    adresse ip, direccion, direccion ip, indirizzo, indirizzo ip, endereco, endereco ip, inet, inet6, inet addr, addr, primary address,
    ip-address`,
  hardware: `hardware, mac, mac address, hardware address, lladdr, physical address, mac-adresse, ether, hwaddr, link address`,
  note: `description, note, comment, remark, descr, label, alias, beschreibung, bemerkung, kommentar, remarque, commentaire,
    descripcion, comentario, nota, descrizione, commento, descricao, comentarios, remarks, notes`,
  ignored: `broadcast, bcast, brd, peer, p-t-p, age, uptime, time, since, updated, last update, last change, use, ref, refs, refcnt, mtu, window, irtt, tag, weight, #,
    no, nr, index, idx, name, expires, expire, timer, lifetime, alter, zeit, dauer, seit, age (s), duree, temps, depuis, edad, tiempo,
    eta, tempo, idade, hits, packets, bytes, count, id, seq, line, num, area, hop count, vlan, speed, duplex, admin, oper, method, ok,
    link state, version, entry, rtref, pos, flags2, mbps, counter, label in, scope, hold`,
};

/** Words without content of their own between the values of a sentence. */
const fillers = new Set(
  `is are directly attached to from the for of in at and or up down next hop by with route routes entry entries via known reached
  reachable distance metric network networks subnet goes go leaves leaving port ist direkt an mit zur zum des der die das den dem nach
  und ueber uber est directement sur le la les de du des et vers connecte esta directamente en el los y a por hacia con e il
  direttamente su per da tramite diretto um uma no na para pelo pela diretamente`.split(/\s+/),
);
export const isFiller = (word: string) => fillers.has(plain(word));

/** Words that say what a number in front of them counts. */
const units = new Set(
  "path paths hop hops subnet subnets route routes entry entries way ways known day days hour hours minute minutes second seconds ago mask masks".split(
    " ",
  ),
);
export const isUnit = (word: string) => units.has(plain(word));

const byWord = new Map<string, Role>();
for (const [role, list] of Object.entries(headings))
  for (const word of list.split(",")) byWord.set(word.trim().replace(/\s+/g, " "), role as Role);

/** The role that a word or phrase announces for the content below or after it; null without one. */
export function roleOf(text: string): Role | null {
  return (
    byWord.get(
      plain(text)
        .replace(/[:=.]{1,2}$/, "")
        .trim(),
    ) ?? null
  );
}

/** The most words of a phrase that announces a role. */
export const MAX_PHRASE = 3;
