import type { Post } from '@/core/span/model';
import { StatePost } from '../look/post';
import type { Column } from './columns';

/** How each line stands, as a post; in words it is sorted, filtered and written away. */
export const stateColumn = <R,>(postOf: (row: R) => Post): Column<R> => ({
  head: 'State',
  silent: true,
  width: 'w-6',
  value: postOf,
  cell: (row) => <StatePost post={postOf(row)} />,
});
