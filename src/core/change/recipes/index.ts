import { giveStorage } from './give-storage';
import { takeBackStorage } from './take-back';
import type { RecipeType } from '../../operation/recipe';

/** Usual jobs, written as operations. */
export const recipeTypes = [giveStorage, takeBackStorage] as unknown as readonly RecipeType[];
