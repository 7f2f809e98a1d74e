// Written by npm run registry: every operation that a room exports.
import { driveAssignSpare } from '../drive/assign-spare';
import { driveClearLabel } from '../drive/clear-label';
import { driveCopyToSpare } from '../drive/copy-to-spare';
import { driveErase } from '../drive/erase';
import { driveLocate } from '../drive/locate';
import { driveReleaseSpare } from '../drive/release-spare';
import { driveReplace } from '../drive/replace';
import { raidGroupConfigure } from '../raid/configure';
import { raidGroupCreate } from '../raid/create';
import { raidGroupDelete } from '../raid/delete';
import { raidGroupExpand } from '../raid/expand';
import { raidGroupScrub } from '../raid/scrub';
import { poolConfigure } from '../pool/configure';
import { poolCreate } from '../pool/create';
import { poolDelete } from '../pool/delete';
import { poolExtend } from '../pool/extend';
import { poolRebalance } from '../pool/rebalance';
import { poolReduce } from '../pool/reduce';
import { poolRemoveGroup } from '../pool/remove-group';
import { volumeActivity } from '../volume/activity';
import { volumeConfigure } from '../volume/configure';
import { volumeConvert } from '../volume/convert';
import { volumeCreate } from '../volume/create';
import { volumeDelete } from '../volume/delete';
import { volumeReclaim } from '../volume/reclaim';
import { volumeResize } from '../volume/resize';
import { volumeRestore, volumePurge } from '../volume/restore';
import { workloadCreate, workloadDelete } from '../volume/workload';
import { poolHeatWindow } from '../tiering/heat-window';
import { poolPlaceByHeat } from '../tiering/place-by-heat';
import {
  tierPolicyCreate,
  tierPolicyConfigure,
  tierPolicyApply,
  tierPolicyLift,
  tierPolicyDelete,
} from '../tiering/policy-operations';
import { arraySetClock } from '../protect/array-set-clock';
import { planAttach, planRun } from '../protect/plan-attach';
import { planConfigure, planDelete } from '../protect/plan-configure';
import { planCreate } from '../protect/plan-create';
import { planSchedule, planDropSchedule } from '../protect/plan-schedule';
import { snapshotClone } from '../protect/snapshot-clone';
import { snapshotCreate } from '../protect/snapshot-create';
import { snapshotDelete } from '../protect/snapshot-delete';
import { snapshotLock, snapshotConfigure } from '../protect/snapshot-keep';
import { snapshotRestore } from '../protect/snapshot-restore';
import { snapshotValidate } from '../protect/snapshot-validate';
import { volumeDetach } from '../protect/volume-detach';
import { volumePromote } from '../protect/volume-promote';
import { drillStart, drillEnd } from '../replicate/drill-operations';
import { siteLinkCreate, siteLinkConfigure, siteLinkDelete } from '../replicate/link-operations';
import { partnerConfigure, partnerRenew, partnerRevoke } from '../replicate/partner-change';
import { partnerIntroduce } from '../replicate/partner-introduce';
import { replicationCreate } from '../replicate/replication-create';
import { replicationExtend } from '../replicate/replication-extend';
import { replicationConfigure, replicationPause, replicationResume } from '../replicate/replication-run';
import {
  replicationSwitch,
  replicationFailover,
  replicationReverse,
  replicationUndo,
  replicationRemove,
} from '../replicate/replication-turn';
import { stretchConfigure } from '../replicate/stretch-change';
import { stretchCreate } from '../replicate/stretch-create';
import { stretchDissolve } from '../replicate/stretch-dissolve';
import { stretchForce } from '../replicate/stretch-force';
import { witnessCreate, witnessConfigure, witnessDelete } from '../replicate/witness-operations';
import { limitCreate, limitConfigure, limitDelete } from '../performance/limit-operations';
import { limitApply, limitLift } from '../performance/limit-uses';
import { allotmentCreate, allotmentConfigure, allotmentDelete } from '../service/allotment-operations';
import { allotmentCarve, allotmentTake, allotmentRelease } from '../service/allotment-uses';
import { classCreate, classConfigure, classDelete, classApply, classLift } from '../service/class-operations';
import { factDeclare, factWithdraw, factOrderSet } from '../service/fact-operations';
import { requestCreate, requestConfigure, requestDelete } from '../service/request-operations';
import { moveConfigure, moveHold, moveGoOn } from '../moving/move-configure';
import { moveConfirm, moveAccept, moveRollBack, moveAbort } from '../moving/move-turns';
import { volumeMove } from '../moving/volume-move';
import {
  wavePlanCreate,
  wavePlanConfigure,
  wavePlanHold,
  wavePlanGoOn,
  wavePlanDelete,
} from '../moving/wave-operations';
import { outsideBlank } from '../outside/blank';
import { outsideFront } from '../outside/front';
import { outsideGiveBack } from '../outside/give-back';
import { outsideInspect } from '../outside/inspect';
import { outsideKeep } from '../outside/keep';
import { outsideRelease } from '../outside/release';
import { outsideRescan } from '../outside/rescan';
import { machineAddDisk, machineRemoveDisk } from '../machine/disk-operations';
import { machineCreate, machineDelete, machineSwitch } from '../machine/machine-operations';
import { arrayConfigure } from '../attach/array-configure';
import { controllerFailOver, controllerGiveBack } from '../attach/controller-state';
import { deviceFormat } from '../attach/device-format';
import { deviceGrow, deviceShrink } from '../attach/device-grow';
import { deviceUnmount, deviceMount } from '../attach/device-mount';
import { deviceReserve, deviceRelease } from '../attach/device-reserve';
import { deviceConfigure, deviceRemove, hostRestart } from '../attach/device-state';
import { hostApplication } from '../attach/host-application';
import { hostConfigure } from '../attach/host-configure';
import { hostCreate } from '../attach/host-create';
import { hostDelete } from '../attach/host-delete';
import { hostLogin, hostLogout } from '../attach/host-login';
import { hostRescan } from '../attach/host-rescan';
import { interfaceConfigure } from '../attach/interface-configure';
import { mappingConfigure } from '../attach/mapping-configure';
import { mappingCreate } from '../attach/mapping-create';
import { mappingDelete } from '../attach/mapping-delete';
import { portConfigure } from '../attach/port-configure';
import { takeFile } from '../attach/take-file';
import { zoneSetActivate } from '../zoning/activate';
import { aliasCreate, aliasConfigure, aliasDelete } from '../zoning/alias';
import { fabricConfigure } from '../zoning/fabric-configure';
import { zoningJoin, zoningPart } from '../zoning/join';
import { zoneSetCreate, zoneSetConfigure, zoneSetDelete } from '../zoning/zone-set';
import { createZone, zoneConfigure, zoneDelete } from '../zoning/zone';
import { authServerConfigure } from '../target/auth-server';
import { targetCreate, targetConfigure, targetDelete } from '../target/configure';
import { domainCreate, domainConfigure, domainDelete } from '../target/discovery-domain';
import { domainSetCreate, domainSetConfigure, domainSetDelete } from '../target/domain-set';
import { initiatorConfigure } from '../target/initiator-configure';
import { nameServerConfigure } from '../target/name-server';
import { subsystemCreate, subsystemConfigure, subsystemDelete } from '../target/subsystem';
import { jobCancel } from '../work/cancel';
import { findingMute, findingUnmute } from '../check/mute';

/** Operations by the room that they live in, in the order in which they are offered. */
// prettier-ignore
export const operationsByRoom = {
  drive: [
    driveAssignSpare,
    driveReleaseSpare,
    driveLocate,
    driveReplace,
    driveCopyToSpare,
    driveErase,
    driveClearLabel,
  ],
  raid: [
    raidGroupCreate,
    raidGroupExpand,
    raidGroupConfigure,
    raidGroupScrub,
    raidGroupDelete,
  ],
  pool: [
    poolCreate,
    poolConfigure,
    poolExtend,
    poolRemoveGroup,
    poolRebalance,
    poolReduce,
    poolDelete,
  ],
  volume: [
    workloadCreate,
    workloadDelete,
    volumeCreate,
    volumeResize,
    volumeConvert,
    volumeReclaim,
    volumeConfigure,
    volumeDelete,
    volumeRestore,
    volumePurge,
    volumeActivity,
  ],
  tiering: [
    poolHeatWindow,
    poolPlaceByHeat,
    tierPolicyCreate,
    tierPolicyConfigure,
    tierPolicyApply,
    tierPolicyLift,
    tierPolicyDelete,
  ],
  protect: [
    planAttach,
    planRun,
    planConfigure,
    planDelete,
    planCreate,
    planSchedule,
    planDropSchedule,
    snapshotCreate,
    snapshotDelete,
    snapshotLock,
    snapshotConfigure,
    snapshotRestore,
    snapshotClone,
    snapshotValidate,
    volumeDetach,
    arraySetClock,
    volumePromote,
  ],
  replicate: [
    siteLinkCreate,
    siteLinkConfigure,
    siteLinkDelete,
    replicationCreate,
    replicationConfigure,
    replicationPause,
    replicationResume,
    replicationSwitch,
    replicationFailover,
    replicationReverse,
    replicationUndo,
    replicationRemove,
    partnerIntroduce,
    partnerConfigure,
    partnerRenew,
    partnerRevoke,
    drillStart,
    drillEnd,
    replicationExtend,
    stretchConfigure,
    stretchCreate,
    stretchDissolve,
    stretchForce,
    witnessCreate,
    witnessConfigure,
    witnessDelete,
  ],
  performance: [
    limitCreate,
    limitConfigure,
    limitApply,
    limitLift,
    limitDelete,
  ],
  service: [
    classCreate,
    classConfigure,
    classDelete,
    classApply,
    classLift,
    factDeclare,
    factWithdraw,
    factOrderSet,
    allotmentCreate,
    allotmentConfigure,
    allotmentDelete,
    allotmentCarve,
    allotmentTake,
    allotmentRelease,
    requestCreate,
    requestConfigure,
    requestDelete,
  ],
  moving: [
    moveConfigure,
    moveHold,
    moveGoOn,
    moveConfirm,
    moveAccept,
    moveRollBack,
    moveAbort,
    volumeMove,
    wavePlanCreate,
    wavePlanConfigure,
    wavePlanHold,
    wavePlanGoOn,
    wavePlanDelete,
  ],
  outside: [
    outsideBlank,
    outsideFront,
    outsideGiveBack,
    outsideInspect,
    outsideKeep,
    outsideRelease,
    outsideRescan,
  ],
  machine: [
    machineAddDisk,
    machineRemoveDisk,
    machineCreate,
    machineDelete,
    machineSwitch,
  ],
  attach: [
    arrayConfigure,
    portConfigure,
    controllerFailOver,
    controllerGiveBack,
    hostCreate,
    hostConfigure,
    interfaceConfigure,
    hostLogin,
    hostLogout,
    hostDelete,
    mappingCreate,
    mappingConfigure,
    mappingDelete,
    hostRescan,
    deviceFormat,
    deviceMount,
    deviceUnmount,
    deviceGrow,
    deviceShrink,
    deviceConfigure,
    deviceRemove,
    hostRestart,
    hostApplication,
    takeFile,
    deviceReserve,
    deviceRelease,
  ],
  zoning: [
    fabricConfigure,
    aliasCreate,
    aliasConfigure,
    aliasDelete,
    createZone,
    zoneConfigure,
    zoneDelete,
    zoneSetCreate,
    zoneSetConfigure,
    zoneSetDelete,
    zoneSetActivate,
    zoningJoin,
    zoningPart,
  ],
  target: [
    targetCreate,
    targetConfigure,
    targetDelete,
    initiatorConfigure,
    authServerConfigure,
    nameServerConfigure,
    domainCreate,
    domainConfigure,
    domainDelete,
    domainSetCreate,
    domainSetConfigure,
    domainSetDelete,
    subsystemCreate,
    subsystemConfigure,
    subsystemDelete,
  ],
  work: [
    jobCancel,
  ],
  check: [
    findingMute,
    findingUnmute,
  ],
} as const;
