// Written by npm run registry: all work that takes time.
import { initialising } from '../raid/work/initialise';
import { rebuilding } from '../raid/work/rebuild';
import { copyingBack } from '../raid/work/copy-back';
import { expanding } from '../raid/work/expand';
import { scrubbing } from '../raid/work/scrub';
import { copyingDrive } from '../raid/work/drive-copy';
import { erasing } from '../drive/work/erase';
import { draining } from '../pool/work/drain';
import { rebalancing } from '../pool/work/rebalance';
import { reducing } from '../pool/work/dedupe';
import { converting } from '../volume/work/convert';
import { placingByHeat } from '../tiering/work/place-by-heat';

// prettier-ignore
export const allWork = [
  initialising,
  rebuilding,
  copyingBack,
  expanding,
  scrubbing,
  copyingDrive,
  erasing,
  draining,
  rebalancing,
  reducing,
  converting,
  placingByHeat,
] as const;
