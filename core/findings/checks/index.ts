import type { Check } from "../check.ts";
import { asymmetricFirewall } from "./asymmetric-firewall.ts";
import { asymmetricPath } from "./asymmetric-path.ts";
import { backupNoWayBack } from "./backup-no-way-back.ts";
import { backupSharesFate } from "./backup-shares-fate.ts";
import { backupTooSmall } from "./backup-too-small.ts";
import { bfdOneEnd } from "./bfd-one-end.ts";
import { bfdTimersDiffer } from "./bfd-timers-differ.ts";
import { bundleEndsDiffer } from "./bundle-ends-differ.ts";
import { bundleMembersDiffer } from "./bundle-members-differ.ts";
import { bundleSettingsDiffer } from "./bundle-settings-differ.ts";
import { carrierOrder } from "./carrier-order.ts";
import { cloudTableOnAppliance } from "./cloud-table-on-appliance.ts";
import { cloudTableUnattached } from "./cloud-table-unattached.ts";
import { deniedBetweenZones } from "./denied-between-zones.ts";
import { deviceBypassed } from "./device-bypassed.ts";
import { distanceTie } from "./distance-tie.ts";
import { duplicateAddress } from "./duplicate-address.ts";
import { facingDefaults } from "./facing-defaults.ts";
import { failoverOnCarrier } from "./failover-on-carrier.ts";
import { failoverOneDirection } from "./failover-one-direction.ts";
import { familyWithoutBackup } from "./family-without-backup.ts";
import { floatingNeverTakesOver } from "./floating-never-takes-over.ts";
import { floatingNotHigher } from "./floating-not-higher.ts";
import { flowFails } from "./flow-fails.ts";
import { flowNotDenied } from "./flow-not-denied.ts";
import { forwardingOff } from "./forwarding-off.ts";
import { gatewayOutsideSubnet } from "./gateway-outside-subnet.ts";
import { interfaceNextHop } from "./interface-next-hop.ts";
import { learnedWithoutTime } from "./learned-without-time.ts";
import { linkLocalWithoutInterface } from "./link-local-without-interface.ts";
import { missingReturnRoute } from "./missing-return-route.ts";
import { nextHopCircular } from "./next-hop-circular.ts";
import { nextHopInvalid } from "./next-hop-invalid.ts";
import { nextHopSilent } from "./next-hop-silent.ts";
import { nextHopUnresolved } from "./next-hop-unresolved.ts";
import { outageTooLong } from "./outage-too-long.ts";
import { overlappingSubnets } from "./overlapping-subnets.ts";
import { pairDiffers } from "./pair-differs.ts";
import { pairSplits } from "./pair-splits.ts";
import { pinnedTargetUsed } from "./pinned-target-used.ts";
import { reservedAddress } from "./reserved-address.ts";
import { returnsTooEarly } from "./returns-too-early.ts";
import { routeNeverUsed } from "./route-never-used.ts";
import { routeUnusable } from "./route-unusable.ts";
import { routesReplaceable } from "./routes-replaceable.ts";
import { secondDefaultRefused } from "./second-default-refused.ts";
import { segmentNotDrawn } from "./segment-not-drawn.ts";
import { sessionsBreak } from "./sessions-break.ts";
import { singlePointOfFailure } from "./single-point-of-failure.ts";
import { staleGateway } from "./stale-gateway.ts";
import { staticOverConnected } from "./static-over-connected.ts";
import { stickyGateways } from "./sticky-gateways.ts";
import { summarySwallows } from "./summary-swallows.ts";
import { summaryWithoutDiscard } from "./summary-without-discard.ts";
import { syncKeepsBackup } from "./sync-keeps-backup.ts";
import { tagOneEnd } from "./tag-one-end.ts";
import { translatedToTheOtherProvider } from "./translated-to-the-other-provider.ts";
import { translationMissing } from "./translation-missing.ts";
import { tunnelThroughItself } from "./tunnel-through-itself.ts";
import { unintendedSharing } from "./unintended-sharing.ts";
import { untranslatedSource } from "./untranslated-source.ts";
import { virtualEqualPriorities } from "./virtual-equal-priorities.ts";
import { virtualLoweringTooSmall } from "./virtual-lowering-too-small.ts";
import { virtualMembersDiffer } from "./virtual-members-differ.ts";
import { virtualOutsideSubnet } from "./virtual-outside-subnet.ts";
import { virtualPartsSilently } from "./virtual-parts-silently.ts";
import { virtualProbeThroughBackup } from "./virtual-probe-through-backup.ts";
import { virtualRepliesElsewhere } from "./virtual-replies-elsewhere.ts";
import { virtualSplit } from "./virtual-split.ts";
import { virtualTrackingWithoutPreempt } from "./virtual-tracking-without-preempt.ts";
import { virtualUntracked } from "./virtual-untracked.ts";
import { watchFirstHopOnly } from "./watch-first-hop-only.ts";
import { watchFlaps } from "./watch-flaps.ts";
import { watchNeedsItself } from "./watch-needs-itself.ts";
import { watchThroughBackup } from "./watch-through-backup.ts";

/** All checks (rule 12), in the order of the work: routes, protection, return path, edges, expectations. */
export const checks: readonly Check[] = [
  flowFails,
  nextHopUnresolved,
  nextHopInvalid,
  nextHopCircular,
  nextHopSilent,
  routeUnusable,
  interfaceNextHop,
  linkLocalWithoutInterface,
  secondDefaultRefused,
  floatingNotHigher,
  distanceTie,
  unintendedSharing,
  floatingNeverTakesOver,
  failoverOnCarrier,
  backupSharesFate,
  backupNoWayBack,
  familyWithoutBackup,
  backupTooSmall,
  failoverOneDirection,
  watchThroughBackup,
  watchFirstHopOnly,
  watchFlaps,
  watchNeedsItself,
  pinnedTargetUsed,
  bfdOneEnd,
  bfdTimersDiffer,
  learnedWithoutTime,
  virtualOutsideSubnet,
  virtualMembersDiffer,
  virtualEqualPriorities,
  virtualUntracked,
  virtualLoweringTooSmall,
  virtualTrackingWithoutPreempt,
  virtualProbeThroughBackup,
  virtualRepliesElsewhere,
  virtualSplit,
  virtualPartsSilently,
  syncKeepsBackup,
  returnsTooEarly,
  pairDiffers,
  pairSplits,
  bundleEndsDiffer,
  bundleMembersDiffer,
  bundleSettingsDiffer,
  tagOneEnd,
  missingReturnRoute,
  asymmetricPath,
  asymmetricFirewall,
  facingDefaults,
  summaryWithoutDiscard,
  summarySwallows,
  routeNeverUsed,
  routesReplaceable,
  untranslatedSource,
  translationMissing,
  translatedToTheOtherProvider,
  deniedBetweenZones,
  flowNotDenied,
  forwardingOff,
  staticOverConnected,
  overlappingSubnets,
  duplicateAddress,
  segmentNotDrawn,
  gatewayOutsideSubnet,
  stickyGateways,
  cloudTableOnAppliance,
  cloudTableUnattached,
  reservedAddress,
  staleGateway,
  tunnelThroughItself,
  carrierOrder,
  outageTooLong,
  deviceBypassed,
  singlePointOfFailure,
  sessionsBreak,
];
