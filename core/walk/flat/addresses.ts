import {
  type Address,
  containsAddress,
  isGloballyRoutable,
  isIpv6LinkLocal,
  sameAddress,
} from "../../address/index.ts";
import { answerersOf, type Network, ownersOf } from "../../network/index.ts";
import { type DropCode, dropCodes } from "../packet.ts";

/** The addresses that packets of one network bear, by number, with what no failure changes about them. */
export class AddressBook {
  private readonly four = new Map<number, number>();
  private readonly six = new Map<string, number>();
  readonly addresses: Address[] = [];
  /** For each address, the interfaces that answer for it, ascending. */
  readonly answerers: (readonly number[])[] = [];
  readonly linkLocal: boolean[] = [];
  /** Whether it is a virtual router's: whose it is goes by roles. */
  readonly virtual: boolean[] = [];
  /** For each address, why the internet does not answer for it (rule 7.4), as a place in `dropCodes`; -1 where it does. */
  private readonly internet: (number | undefined)[] = [];

  constructor(private readonly network: Network) {}

  /** The number of an address; a new one on first use. */
  numberOf(address: Address): number {
    const { family, w0, w1, w2, w3 } = address;
    const key = family === 6 ? `${w0} ${w1} ${w2} ${w3}` : "";
    const known = family === 4 ? this.four.get(w0) : this.six.get(key);
    if (known !== undefined) return known;
    const number = this.addresses.length;
    if (family === 4) this.four.set(w0, number);
    else this.six.set(key, number);
    this.addresses.push(address);
    this.answerers.push(answerersOf(this.network, address));
    this.linkLocal.push(isIpv6LinkLocal(address));
    this.virtual.push(
      this.network.virtuals.some((one) => one.addresses.some((a) => sameAddress(a, address))),
    );
    return number;
  }

  refusedByInternet(number: number): number {
    const known = this.internet[number];
    if (known !== undefined) return known;
    const why = refusal(this.network, this.addresses[number]);
    const code = why === null ? -1 : dropCodes.indexOf(why);
    this.internet[number] = code;
    return code;
  }
}

/** Rule 7.4: what no provider announces is answered, unless it is private or belongs to the plan. */
export function refusal(network: Network, destination: Address): DropCode | null {
  if (!isGloballyRoutable(destination)) return "private-at-internet";
  const ours =
    network.announced.some((prefix) => containsAddress(prefix, destination)) ||
    ownersOf(network, destination).length > 0;
  return ours ? "no-route" : null;
}

const books = new WeakMap<Network, AddressBook>();

export function addressBook(network: Network): AddressBook {
  let book = books.get(network);
  if (!book) {
    book = new AddressBook(network);
    books.set(network, book);
  }
  return book;
}

/** Gives a network the book of one that it was edited from, where all its addresses are answered by the same. */
export function shareBook(network: Network, like: Network) {
  if (!books.has(network) && answersAlike(network, like)) books.set(network, addressBook(like));
}

/** Whether the same interfaces answer for the same addresses in both: what else they depend on is the same too. */
function answersAlike(a: Network, b: Network): boolean {
  if (a.interfaces !== b.interfaces) return false;
  return a.plan.devices.every((one, d) => {
    const other = b.plan.devices[d];
    return (
      one === other ||
      (one.sourceNat === other.sourceNat &&
        one.forwarding === other.forwarding &&
        one.role === other.role &&
        one.announces === other.announces)
    );
  });
}
