import type { Check } from '../finding';
import { linkChecks } from './link-checks';
import { loginChecks } from './login-checks';
import { mappingChecks } from './mapping-checks';
import { nameChecks } from './name-checks';
import { networkChecks } from './network-checks';
import { pathChecks } from './path-checks';
import { portChecks } from './port-checks';
import { zoningChecks } from './zoning-checks';

/** What can be wrong between arrays and hosts, in the order of the chain. */
export const attachChecks: readonly Check[] = [
  ...nameChecks,
  ...portChecks,
  ...zoningChecks,
  ...linkChecks,
  ...networkChecks,
  ...loginChecks,
  ...mappingChecks,
  ...pathChecks,
];
