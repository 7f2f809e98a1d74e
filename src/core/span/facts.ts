import type { EstateView } from '../estate/estate';
import { kindWords } from '../estate/entities';
import type { Selection } from './chain';
import { hostFacts, interfaceFacts, networkFacts, portFacts } from './facts-attach';
import { fabricFacts } from './facts-fabric';
import type { Facts } from './facts-lines';
import { driveFacts } from './facts-drives';
import { arrayFacts, groupFacts, poolFacts } from './facts-storage';
import { volumeFacts } from './facts-volume';

export type { FactCell, FactLine, Facts } from './facts-lines';

/** The facts of one thing; the selection must exist. */
export function factsOf(view: EstateView, { kind, id }: Selection): Facts {
  const facts = {
    array: arrayFacts,
    drive: driveFacts,
    raidGroup: groupFacts,
    pool: poolFacts,
    volume: volumeFacts,
    port: portFacts,
    network: networkFacts,
    fabric: fabricFacts,
    interface: interfaceFacts,
    host: hostFacts,
  }[kind];
  return { kind: kindWords[kind], ...facts(view, id) };
}
