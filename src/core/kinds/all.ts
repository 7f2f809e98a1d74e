// Written by npm run registry: every kind of row that the estate holds.
import { accessKind } from './access';
import { activeZoneKind } from './active-zone';
import { aliasKind } from './alias';
import { allotmentUseKind } from './allotment-use';
import { allotmentKind } from './allotment';
import { arrayKind } from './array';
import { authServerKind } from './auth-server';
import { classUseKind } from './class-use';
import { clusterKind } from './cluster';
import { controllerKind } from './controller';
import { cycleKind } from './cycle';
import { declaredFactKind } from './declared-fact';
import { discoveryDomainKind } from './discovery-domain';
import { domainSetKind } from './domain-set';
import { drillKind } from './drill';
import { driveKind } from './drive';
import { enclosureKind } from './enclosure';
import { extentKind } from './extent';
import { fabricKind } from './fabric';
import { factOrderKind } from './fact-order';
import { hostDeviceKind } from './host-device';
import { hostKind } from './host';
import { initiatorKind } from './initiator';
import { interfaceKind } from './interface';
import { islKind } from './isl';
import { jobKind } from './job';
import { keptRequestKind } from './kept-request';
import { limitUseKind } from './limit-use';
import { loadLimitKind } from './load-limit';
import { loginKind } from './login';
import { machineKind } from './machine';
import { machineDiskKind } from './machine';
import { mappingKind } from './mapping';
import { moveKind } from './move';
import { muteKind } from './mute';
import { nameServerKind } from './name-server';
import { networkKind } from './network';
import { outsideLunKind } from './outside-lun';
import { partnerKind } from './partner';
import { planRunKind } from './plan-run';
import { planKind } from './plan';
import { poolKind } from './pool';
import { portKind } from './port';
import { raidGroupKind } from './raid-group';
import { replicationKind } from './replication';
import { serviceClassKind } from './service-class';
import { siteLinkKind } from './site-link';
import { siteKind } from './site';
import { snapshotKind } from './snapshot';
import { subsystemKind } from './subsystem';
import { switchKind } from './switch';
import { targetKind } from './target';
import { tierPolicyKind } from './tier-policy';
import { tierUseKind } from './tier-use';
import { volumeKind } from './volume';
import { wavePlanKind } from './wave-plan';
import { witnessKind } from './witness';
import { workloadKind } from './workload';
import { zoneSetKind } from './zone-set';
import { zoneKind } from './zone';

export * from './fields';
export * from './access';
export * from './active-zone';
export * from './alias';
export * from './allotment-use';
export * from './allotment';
export * from './array';
export * from './auth-server';
export * from './class-use';
export * from './cluster';
export * from './controller';
export * from './cycle';
export * from './declared-fact';
export * from './discovery-domain';
export * from './domain-set';
export * from './drill';
export * from './drive';
export * from './enclosure';
export * from './extent';
export * from './fabric';
export * from './fact-order';
export * from './host-device';
export * from './host';
export * from './initiator';
export * from './interface';
export * from './isl';
export * from './job';
export * from './kept-request';
export * from './limit-use';
export * from './load-limit';
export * from './login';
export * from './machine';
export * from './machine';
export * from './mapping';
export * from './move';
export * from './mute';
export * from './name-server';
export * from './network';
export * from './outside-lun';
export * from './partner';
export * from './plan-run';
export * from './plan';
export * from './pool';
export * from './port';
export * from './raid-group';
export * from './replication';
export * from './service-class';
export * from './site-link';
export * from './site';
export * from './snapshot';
export * from './subsystem';
export * from './switch';
export * from './target';
export * from './tier-policy';
export * from './tier-use';
export * from './volume';
export * from './wave-plan';
export * from './witness';
export * from './workload';
export * from './zone-set';
export * from './zone';

export const declarations = {
  site: siteKind,
  array: arrayKind,
  controller: controllerKind,
  enclosure: enclosureKind,
  drive: driveKind,
  raidGroup: raidGroupKind,
  pool: poolKind,
  workload: workloadKind,
  volume: volumeKind,
  extent: extentKind,
  network: networkKind,
  fabric: fabricKind,
  switch: switchKind,
  isl: islKind,
  alias: aliasKind,
  zone: zoneKind,
  zoneSet: zoneSetKind,
  activeZone: activeZoneKind,
  port: portKind,
  cluster: clusterKind,
  host: hostKind,
  initiator: initiatorKind,
  interface: interfaceKind,
  login: loginKind,
  access: accessKind,
  authServer: authServerKind,
  nameServer: nameServerKind,
  discoveryDomain: discoveryDomainKind,
  domainSet: domainSetKind,
  target: targetKind,
  subsystem: subsystemKind,
  mapping: mappingKind,
  hostDevice: hostDeviceKind,
  job: jobKind,
  mute: muteKind,
  planRun: planRunKind,
  plan: planKind,
  snapshot: snapshotKind,
  cycle: cycleKind,
  replication: replicationKind,
  siteLink: siteLinkKind,
  partner: partnerKind,
  drill: drillKind,
  witness: witnessKind,
  limitUse: limitUseKind,
  loadLimit: loadLimitKind,
  tierPolicy: tierPolicyKind,
  tierUse: tierUseKind,
  classUse: classUseKind,
  declaredFact: declaredFactKind,
  factOrder: factOrderKind,
  serviceClass: serviceClassKind,
  allotmentUse: allotmentUseKind,
  allotment: allotmentKind,
  move: moveKind,
  wavePlan: wavePlanKind,
  outsideLun: outsideLunKind,
  machine: machineKind,
  machineDisk: machineDiskKind,
  keptRequest: keptRequestKind,
} as const;
