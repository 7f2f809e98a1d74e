import { blankRoom } from './blank-room';
import { bringIn } from './bring-in';
import { carvePlaces } from './carve-places';
import { failSiteOver } from './fail-site-over';
import { giveStorage } from './give-storage';
import { bringMachineBack, copyMachine, makeMachine } from './machines';
import { moveVolumes } from './move-volumes';
import { rescanCluster } from './rescan-cluster';
import { goBack } from './go-back';
import { hideCopy, showCopy } from './show-copy';
import { takeBackStorage } from './take-back';
import { giveOverTwoSites, takeBackOverTwoSites } from './two-sites';
import type { RecipeType } from '../../operation/recipe';

/** Usual jobs, written as operations. */
export const recipeTypes = [
  carvePlaces,
  giveStorage,
  takeBackStorage,
  giveOverTwoSites,
  takeBackOverTwoSites,
  moveVolumes,
  bringIn,
  blankRoom,
  makeMachine,
  copyMachine,
  bringMachineBack,
  failSiteOver,
  rescanCluster,
  showCopy,
  hideCopy,
  goBack,
] as unknown as readonly RecipeType[];
