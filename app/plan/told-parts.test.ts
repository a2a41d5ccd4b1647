import { describe, expect, it } from "vitest";
import { elementLabel, type Labels, partsOf, plainText } from "./sentence-parts.ts";

const labels: Labels = {
  devices: new Map([
    ["office-fw", "Office firewall"],
    ["tern", "Tern Point edge"],
  ]),
  flows: new Map([["tickets", "Ticket desk to booking"]]),
  links: new Map([["north-ring", "North fibre ring"]]),
  gateways: new Map([
    ["north", "North fibre"],
    ["radio", "Bay radio"],
  ]),
  fates: new Map([["risk:duct", "The duct under North Road"]]),
};

describe("a sentence of the engine in people's words", () => {
  it.each([
    ["link:north-ring fails", "North fibre ring fails"],
    ["interface:office-fw/outside is restored", "Office firewall outside is restored"],
    ["interface tern/wan1 goes down", "interface Tern Point edge wan1 goes down"],
    ["watch:tern/far-a fails", "watch far-a of Tern Point edge fails"],
    ["device:tern fails", "Tern Point edge fails"],
    ["risk:duct fails", "The duct under North Road fails"],
    ["site:office fails", "all of office fails"],
    [
      "flow tickets works, carried by north, radio",
      "Ticket desk to booking works, carried by North fibre, Bay radio",
    ],
    ["the link:gone of nobody", "the gone of nobody"],
    ["flow unheard of", "flow unheard of"],
    ["Flow tickets does not arrive", "Ticket desk to booking does not arrive"],
    ["10.0.0.0/8 via 192.0.2.1", "10.0.0.0/8 via 192.0.2.1"],
    ["the gateway radio must carry 5 Mbit/s", "the gateway Bay radio must carry 5 Mbit/s"],
    ["the link north-ring and the link gone", "the link North fibre ring and the link gone"],
    ["nothing here", "nothing here"],
  ])("%s", (text, said) => {
    expect(plainText(text, labels)).toBe(said);
  });

  it("leads an address to the device that was named last, or to the one that is looked at", () => {
    expect(partsOf("office-fw has no route to 10.1.0.9", labels)).toEqual([
      { kind: "device", text: "Office firewall", device: "office-fw" },
      { kind: "text", text: " has no route to " },
      { kind: "address", text: "10.1.0.9", device: "office-fw" },
    ]);
    expect(partsOf("2001:db8::1 answers", labels, "tern")[0]).toEqual({
      kind: "address",
      text: "2001:db8::1",
      device: "tern",
    });
    expect(partsOf("2001:db8::1 answers", labels)[0]).toMatchObject({ device: undefined });
  });

  it("keeps every character that is no name", () => {
    const text = "(tern), “tern”; tern's — ternary, x-tern";
    expect(plainText(text, { ...labels, devices: new Map([["tern", "tern"]]) })).toBe(text);
  });

  it("names an element as people do, and keeps what it does not know", () => {
    expect(elementLabel("link:north-ring", labels)).toBe("North fibre ring");
    expect(elementLabel("interface:unknown/eth0", labels)).toBe("unknown eth0");
    expect(elementLabel("rubbish", labels)).toBe("rubbish");
  });
});
