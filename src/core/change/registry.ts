import { z } from 'zod';
import { arrayConfigure } from '../attach/array-configure';
import { controllerFailOver, controllerGiveBack } from '../attach/controller-state';
import { deviceFormat } from '../attach/device-format';
import { deviceGrow, deviceShrink } from '../attach/device-grow';
import { deviceMount, deviceUnmount } from '../attach/device-mount';
import { deviceConfigure, deviceRemove, hostRestart } from '../attach/device-state';
import { hostConfigure } from '../attach/host-configure';
import { hostCreate } from '../attach/host-create';
import { hostLogin, hostLogout } from '../attach/host-login';
import { interfaceConfigure } from '../attach/interface-configure';
import { mappingConfigure } from '../attach/mapping-configure';
import { hostDelete } from '../attach/host-delete';
import { hostRescan } from '../attach/host-rescan';
import { mappingCreate } from '../attach/mapping-create';
import { mappingDelete } from '../attach/mapping-delete';
import { portConfigure } from '../attach/port-configure';
import { findingMute, findingUnmute } from '../check/mute';
import { driveAssignSpare } from '../drive/assign-spare';
import { driveClearLabel } from '../drive/clear-label';
import { driveCopyToSpare } from '../drive/copy-to-spare';
import { driveErase } from '../drive/erase';
import { driveLocate } from '../drive/locate';
import { driveReleaseSpare } from '../drive/release-spare';
import { driveReplace } from '../drive/replace';
import { jobCancel } from '../job/cancel';
import { nearMiss } from '../naming/nearness';
import type { OperationType } from '../operation/operation';
import type { RecipeType } from '../operation/recipe';
import type { Refusal } from '../operation/refusal';
import { poolConfigure } from '../pool/configure';
import { poolCreate } from '../pool/create';
import { poolDelete } from '../pool/delete';
import { poolExtend } from '../pool/extend';
import { poolRebalance } from '../pool/rebalance';
import { poolReduce } from '../pool/reduce';
import { poolRemoveGroup } from '../pool/remove-group';
import { raidGroupConfigure } from '../raid/configure';
import { raidGroupCreate } from '../raid/create';
import { raidGroupDelete } from '../raid/delete';
import { raidGroupExpand } from '../raid/expand';
import { raidGroupScrub } from '../raid/scrub';
import { authServerConfigure } from '../target/auth-server';
import { targetConfigure, targetCreate, targetDelete } from '../target/configure';
import { initiatorConfigure } from '../target/initiator-configure';
import {
  domainConfigure,
  domainCreate,
  domainDelete,
  domainSetConfigure,
  domainSetCreate,
  domainSetDelete,
  nameServerConfigure,
} from '../target/name-service';
import { subsystemConfigure, subsystemCreate, subsystemDelete } from '../target/subsystem';
import { volumeConfigure } from '../volume/configure';
import { volumeConvert } from '../volume/convert';
import { volumeCreate } from '../volume/create';
import { volumeDelete } from '../volume/delete';
import { volumeReclaim } from '../volume/reclaim';
import { volumeResize } from '../volume/resize';
import { volumePurge, volumeRestore } from '../volume/restore';
import { aliasConfigure, aliasCreate, aliasDelete } from '../zoning/alias';
import { zoneSetActivate } from '../zoning/activate';
import { fabricConfigure } from '../zoning/fabric-configure';
import { zoningJoin, zoningPart } from '../zoning/join';
import { zoneConfigure, createZone, zoneDelete } from '../zoning/zone';
import { zoneSetConfigure, zoneSetCreate, zoneSetDelete } from '../zoning/zone-set';
import { workloadCreate, workloadDelete } from '../volume/workload';
import { recipeTypes } from './recipes';

/** Every operation there is, in the order of the chain. Forms, API, OpenAPI and change files read this list. */
export const operationTypes = [
  driveAssignSpare,
  driveReleaseSpare,
  driveLocate,
  driveReplace,
  driveCopyToSpare,
  driveErase,
  driveClearLabel,
  raidGroupCreate,
  raidGroupExpand,
  raidGroupConfigure,
  raidGroupScrub,
  raidGroupDelete,
  poolCreate,
  poolConfigure,
  poolExtend,
  poolRemoveGroup,
  poolRebalance,
  poolReduce,
  poolDelete,
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
  arrayConfigure,
  portConfigure,
  controllerFailOver,
  controllerGiveBack,
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
  jobCancel,
  findingMute,
  findingUnmute,
] as unknown as readonly OperationType[];

const byKind = new Map(operationTypes.map((type) => [type.kind, type]));

export const operationType = (kind: string): OperationType | undefined => byKind.get(kind);

const recipesByKind = new Map(recipeTypes.map((type) => [type.kind, type]));
/** What can be asked for in a change: an operation, or a recipe that unfolds to some. */
export const askable = (kind: string): OperationType | RecipeType | undefined =>
  byKind.get(kind) ?? recipesByKind.get(kind);

/** An operation as change files and the API write it: what to do, and its parameters beside it. */
export const operationDocument = z.looseObject({ do: z.string() });
export type OperationDocument = z.output<typeof operationDocument>;

type Read<Type> = { ok: true; type: Type; params: unknown } | { ok: false; refusals: Refusal[] };
export type ReadOperation = Read<OperationType>;

const parameterNames = (type: OperationType | RecipeType): string[] => Object.keys((type.schema as z.ZodObject).shape);

/** Checks an operation's kind and parameters against the registry. */
export const readOperation = (document: OperationDocument): ReadOperation =>
  read(document, operationType(document.do), [...byKind.keys()]);
/** The same for a recipe; null where the document is none. */
export const readRecipe = (document: OperationDocument): Read<RecipeType> | null => {
  const type = recipesByKind.get(document.do);
  return type ? read(document, type, []) : null;
};

function read<Type extends OperationType | RecipeType>(
  document: OperationDocument,
  type: Type | undefined,
  known: readonly string[],
): Read<Type> {
  const { do: kind, ...given } = document;
  if (!type) {
    const near = nearMiss(kind, [...known, ...recipesByKind.keys()]);
    return no({
      code: 'operation-unknown',
      field: 'do',
      subject: { kind: 'operation', name: kind },
      message: `There is no operation ${kind || 'without a name'}.`,
      mend: near ? `Perhaps ${near.known} is meant.` : `Known are: ${known.join(', ')}.`,
    });
  }
  const names = parameterNames(type);
  const strange = Object.keys(given).find((name) => !names.includes(name));
  if (strange !== undefined) {
    const near = nearMiss(strange, names);
    return no({
      code: 'parameter-unknown',
      field: strange,
      subject: { kind: 'operation', name: kind },
      message: `${kind} takes no ${strange}.`,
      mend: near ? `Perhaps ${near.known} is meant.` : `It takes: ${names.join(', ')}.`,
    });
  }
  const result = type.schema.safeParse(given);
  if (result.success) return { ok: true, type, params: result.data };
  return {
    ok: false,
    refusals: result.error.issues.map((issue) => {
      const [field] = issue.path;
      const missing = field !== undefined && given[String(field)] === undefined;
      const place = issue.path.join('.') || kind;
      return {
        code: missing ? 'parameter-missing' : 'parameter-wrong',
        field: field === undefined ? 'do' : String(field),
        subject: { kind: 'operation', name: kind },
        message: missing ? `Nothing is given for ${inWords(place)}.` : `${inWords(place)}: ${issue.message}.`,
        mend: missing ? `Give the ${inWords(place)}.` : `Correct the ${inWords(place)}.`,
      };
    }),
  };
}

/** `raidGroups` → `raid groups`. */
const inWords = (place: string): string =>
  place.replace(/([a-z])([A-Z])/g, (_, a: string, b: string) => `${a} ${b.toLowerCase()}`);

const no = (refusal: Refusal): { ok: false; refusals: Refusal[] } => ({ ok: false, refusals: [refusal] });
