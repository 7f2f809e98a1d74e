/** Words of the trade by which people look for what is called otherwise here; a pattern tells the operations they lead to. */
const words: readonly (readonly [RegExp, string])[] = [
  [/\.create$|^storage\.give$/, 'create add new make provision'],
  [/\.delete$|\.remove$|^storage\.take|\.purge$/, 'delete remove destroy drop'],
  [/^mapping\.create$/, 'mask masking export lun assign present add'],
  [/^mapping\.configure$/, 'read-only readonly lun access'],
  [/^mapping\.delete$/, 'unmask unexport'],
  [/^pool\.configure$/, 'dedupe deduplication compression encryption threshold alert mark'],
  [/^pool\.reduce$/, 'dedupe deduplication compression'],
  [/^(target|host|initiator)\.configure$/, 'chap secret password authentication'],
  [/^auth-server\./, 'chap radius authentication'],
  [/^volume\.resize$/, 'expand grow shrink extend enlarge'],
  [/^raid-group\.expand$|^pool\.extend$/, 'grow add drives enlarge'],
  [/^volume\.reclaim$/, 'unmap trim discard thin'],
  [/^host\.create$/, 'server register'],
  [/^drive\.assign-spare$/, 'hot spare'],
  [/^host\.login$/, 'connect discover'],
  [/^host\.logout$/, 'disconnect'],
];

/** What else an operation may be called by somebody who looks for it. */
export const tradeWords = (kind: string): string =>
  words
    .filter(([pattern]) => pattern.test(kind))
    .map(([, said]) => said)
    .join(' ');

/** Things that are a field of an operation: they are done by its form, opened on that field. */
export const fieldsByName: readonly { label: string; hint: string; do: string; field: string }[] = [
  {
    label: 'CHAP that a target demands',
    hint: 'What hosts must prove at login.',
    do: 'target.configure',
    field: 'auth',
  },
  { label: 'CHAP secret of a host', hint: 'What it proves itself with.', do: 'host.configure', field: 'chapSecret' },
  {
    label: 'CHAP secret on record for an initiator',
    hint: 'What an array checks it against.',
    do: 'initiator.configure',
    field: 'chapSecret',
  },
  { label: 'Dedupe of a pool', hint: 'Equal pages are kept once.', do: 'pool.configure', field: 'dedupe' },
  {
    label: 'Compression of a pool',
    hint: 'Pages are kept in fewer bytes.',
    do: 'pool.configure',
    field: 'compression',
  },
  {
    label: 'Read-only for a host',
    hint: 'What a mapping lets it do: read and write, or read.',
    do: 'mapping.configure',
    field: 'access',
  },
];
