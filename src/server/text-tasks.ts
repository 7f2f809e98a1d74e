import type { EstateDocument } from '@/core/estate/document';
import { readChangeFile, type ReadChange } from '@/formats/change-file';
import { readEstate, writeEstateYaml } from '@/formats/estate-file';

/** What can be asked of the thread that reads and writes YAML. */
export interface TextTasks {
  readChange: { in: string; out: ReadChange };
  readEstate: { in: string; out: ReturnType<typeof readEstate> };
  writeEstate: { in: EstateDocument; out: string };
}
export const textTasks: { [T in keyof TextTasks]: (given: TextTasks[T]['in']) => TextTasks[T]['out'] } = {
  readChange: readChangeFile,
  readEstate: (text) => readEstate(text, true),
  writeEstate: writeEstateYaml,
};
