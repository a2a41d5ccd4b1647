/** How people call the ways of asking. */
export const wayNames = {
  "snmp-v2c": "SNMP v2c",
  "snmp-v3": "SNMP v3",
  restconf: "RESTCONF",
  netconf: "NETCONF over SSH",
  ssh: "SSH to Linux",
} as const;
