/** What to try with each of the small plans in cases/, in the order in which they are offered. */
export const lessons: readonly { file: string; topic: string; attempt: string }[] = [
  {
    file: "no-way-back",
    topic: "Return path",
    attempt: "Open Paths, see where the reply ends, and take the route that Findings offers.",
  },
  {
    file: "tested-from-the-exit",
    topic: "Return path",
    attempt: "Ask once from the router's own exit and once from the desk: only one has a return path.",
  },
  {
    file: "removed-before-the-summary",
    topic: "Return path",
    attempt: "Undo the order: write the summary first, then see under Summaries which steps are safe.",
  },
  {
    file: "facing-defaults",
    topic: "Loops",
    attempt: "Look up an address that nobody owns on both devices; decide which default is the wrong one.",
  },
  {
    file: "summary-wider-than-what-exists",
    topic: "Loops",
    attempt: "Take the discard route that Findings offers and ask again for an address that does not exist.",
  },
  {
    file: "summary-swallows",
    topic: "Summaries",
    attempt:
      "See on Routes, filtered by the annexe's prefix, which route is more specific; add the missing one.",
  },
  {
    file: "one-wrong-digit",
    topic: "Next hops",
    attempt: "Open the terminal's routes: who owns the next hop? Change the digit and watch the preview.",
  },
  {
    file: "wrong-mask",
    topic: "Next hops",
    attempt: "Compare the two ends' masks; change the terminal's to /29.",
  },
  {
    file: "link-local-without-interface",
    topic: "Next hops",
    attempt: "Write the interface into the route: via alone is not enough for fe80::.",
  },
  { file: "ipv6-forwarding-off", topic: "IPv6", attempt: "Edit the terminal and let it forward IPv6." },
  {
    file: "backup-of-the-same-distance",
    topic: "Backup",
    attempt: "Give the backup a greater distance and see the shield change from shared to standby.",
  },
  {
    file: "backup-never-takes-over",
    topic: "Backup",
    attempt: "Fail the north line on Outages: nobody notices. Take the watch that Findings offers.",
  },
  {
    file: "second-default-refused",
    topic: "Backup",
    attempt: "See why the second default is refused, and give it another distance.",
  },
  {
    file: "failover-in-one-direction",
    topic: "Backup",
    attempt: "Fail the line: the forward path moves, the return path stays. Give the office the same backup.",
  },
  { file: "bfd-on-one-end", topic: "Watches", attempt: "Add the session to the other end." },
  {
    file: "bfd-with-other-timers",
    topic: "Watches",
    attempt: "Run the outage in time and read when each end notices; set the timers alike.",
  },
  {
    file: "watch-of-the-first-hop",
    topic: "Watches",
    attempt: "Fail the ring behind the next hop; point the watch farther.",
  },
  {
    file: "watch-through-the-backup",
    topic: "Watches",
    attempt: "Pin the probe to its line, and run the outage again.",
  },
  {
    file: "watched-address-is-a-service",
    topic: "Watches",
    attempt: "See which flow shares the pinned address; choose another target.",
  },
  {
    file: "handed-out-gateway",
    topic: "Gateways",
    attempt: "Write the default with via-from, so that it follows what is handed out.",
  },
  {
    file: "host-with-two-gateways",
    topic: "Gateways",
    attempt: "Run the outage in time: the desk does not come back by itself. Change its profile.",
  },
  {
    file: "translation-forgotten",
    topic: "Firewalls",
    attempt: "Open the edge's page and add the second network to its source translation.",
  },
  {
    file: "denied-between-zones",
    topic: "Firewalls",
    attempt: "Read on Paths which rule is missing, and add it on the firewall's page.",
  },
  {
    file: "cloud-firewall-without-a-table",
    topic: "Cloud",
    attempt: "Add a policy table on the cloud that leads the app's packets to the appliance.",
  },
  {
    file: "cloud-table-on-the-appliance",
    topic: "Cloud",
    attempt: "Take the appliance's own subnet out of the table.",
  },
  {
    file: "virtual-router-tracks-nothing",
    topic: "Shared gateways",
    attempt: "Fail the left line on the map: nothing moves. Take the tracking that Findings offers.",
  },
  {
    file: "lowering-too-small",
    topic: "Shared gateways",
    attempt: "Fail the left line and read the priorities on the left router's page; lower by one more.",
  },
  {
    file: "two-lines-in-one-duct",
    topic: "Shared fates",
    attempt:
      "Fail each line alone, then the duct on Outages: both go. What would a second duct have to carry?",
  },
  {
    file: "pair-that-forgets",
    topic: "Shared fates",
    attempt:
      "Fail the first firewall in time: new connections work, old ones break. Let the standby know of them.",
  },
];
