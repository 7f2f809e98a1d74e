// Written by npm run registry: work on RAID groups.
import { initialising } from './work/initialise';
import { rebuilding } from './work/rebuild';
import { copyingBack } from './work/copy-back';
import { expanding } from './work/expand';
import { scrubbing } from './work/scrub';
import { copyingDrive } from './work/drive-copy';

// prettier-ignore
export const groupWork = [
  initialising,
  rebuilding,
  copyingBack,
  expanding,
  scrubbing,
  copyingDrive,
] as const;
