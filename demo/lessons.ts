/** What to try with each of the small plans in cases/, in the order in which they are offered. */
export const lessons: readonly { file: string; topic: string; attempt: string }[] = [
  {
    file: "no-way-back",
    topic: "Return path",
    attempt: "Open Paths, see where the reply ends, and apply the fix on Findings.",
  },
  {
    file: "tested-from-the-exit",
    topic: "Return path",
    attempt:
      "Compare the path from the router's exit address with the path from the desk: only one has a return path.",
  },
  {
    file: "removed-before-the-summary",
    topic: "Return path",
    attempt: "Reverse the order: add the summary first, then check on Summaries which steps are safe.",
  },
  {
    file: "facing-defaults",
    topic: "Loops",
    attempt: "Look up an unused address on both devices and decide which default route is wrong.",
  },
  {
    file: "summary-wider-than-what-exists",
    topic: "Loops",
    attempt: "Apply the discard route on Findings and look up an unused address again.",
  },
  {
    file: "summary-swallows",
    topic: "Summaries",
    attempt:
      "Filter Routes by the annexe's prefix to find the more specific route, then add the missing one.",
  },
  {
    file: "one-wrong-digit",
    topic: "Next hops",
    attempt:
      "Open the terminal's routes and find the host with the next hop's address. Correct the digit and watch the preview.",
  },
  {
    file: "wrong-mask",
    topic: "Next hops",
    attempt: "Compare the two ends' masks; change the terminal's to /29.",
  },
  {
    file: "link-local-without-interface",
    topic: "Next hops",
    attempt: "Add the interface to the route: a link-local next hop needs one.",
  },
  { file: "ipv6-forwarding-off", topic: "IPv6", attempt: "Edit the terminal and let it forward IPv6." },
  {
    file: "backup-of-the-same-distance",
    topic: "Backup",
    attempt: "Give the backup a higher distance and see it change from load sharing to standby.",
  },
  {
    file: "backup-never-takes-over",
    topic: "Backup",
    attempt: "Fail the north line on Failures: the failure is not detected. Apply the watch on Findings.",
  },
  {
    file: "second-default-refused",
    topic: "Backup",
    attempt: "Find out why the second default route is rejected and change its distance.",
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
    attempt: "Open the outage timeline, see when each end detects the failure, and align the timers.",
  },
  {
    file: "watch-of-the-first-hop",
    topic: "Watches",
    attempt: "Fail the ring behind the next hop; move the probe target beyond it.",
  },
  {
    file: "watch-through-the-backup",
    topic: "Watches",
    attempt: "Pin the probe to its line, and run the simulation again.",
  },
  {
    file: "watched-address-is-a-service",
    topic: "Watches",
    attempt: "See which flow shares the pinned address; choose another target.",
  },
  {
    file: "handed-out-gateway",
    topic: "Gateways",
    attempt: "Use via-from for the default route so that it follows the assigned gateway.",
  },
  {
    file: "host-with-two-gateways",
    topic: "Gateways",
    attempt: "Open the outage timeline: the desk does not return automatically. Change its profile.",
  },
  {
    file: "translation-forgotten",
    topic: "Firewalls",
    attempt: "Open the edge's page and add the second network to its source translation.",
  },
  {
    file: "denied-between-zones",
    topic: "Firewalls",
    attempt: "Find the missing rule on Paths and add it on the firewall's page.",
  },
  {
    file: "cloud-firewall-without-a-table",
    topic: "Cloud",
    attempt: "Add a policy table on the cloud that leads the app's packets to the appliance.",
  },
  {
    file: "cloud-table-on-the-appliance",
    topic: "Cloud",
    attempt: "Detach the appliance's own subnet from the table.",
  },
  {
    file: "virtual-router-tracks-nothing",
    topic: "Shared gateways",
    attempt: "Fail the left line on the map: no takeover happens. Apply the tracking on Findings.",
  },
  {
    file: "lowering-too-small",
    topic: "Shared gateways",
    attempt: "Fail the left line, compare the priorities on the left router's page, and lower by one more.",
  },
  {
    file: "two-lines-in-one-duct",
    topic: "Shared risks",
    attempt:
      "Fail each line alone, then the duct on Failures: both fail. Decide what a second duct must carry.",
  },
  {
    file: "pair-that-forgets",
    topic: "Shared risks",
    attempt:
      "Fail the first firewall on the outage timeline: new sessions work, established ones are lost. Synchronize session state.",
  },
];
