// Written by npm run registry: work that takes time, and how it is called.

export const workWords = {
  'raid-initialise': {
    busy: 'it is being initialised',
    tells: 'is being initialised',
    share: 'initialised',
  },
  'raid-rebuild': {
    busy: 'a drive is being rebuilt',
    tells: 'rebuilds a drive',
    share: 'rebuilt',
  },
  'raid-copy-back': {
    busy: 'a replaced drive is being written',
    tells: 'copies back to a replaced drive',
    share: 'copied back',
  },
  'raid-expand': {
    busy: 'its stripes move to more drives',
    tells: 'moves its stripes to more drives',
    stop: 'expanding',
    share: 'expanded',
  },
  'raid-scrub': {
    busy: 'it is being scrubbed',
    tells: 'is being scrubbed',
    stop: 'scrubbing',
    share: 'scrubbed',
  },
  'drive-copy': {
    busy: 'a drive is being copied to a spare',
    tells: 'copies a drive to a spare',
    stop: 'copying a drive',
    share: 'copied',
  },
  'drive-erase': {
    busy: 'the drive is being erased',
    tells: 'is being erased',
    share: 'erased',
  },
  'pool-drain': {
    busy: 'a group is being emptied',
    tells: 'is being emptied',
    stop: 'emptying',
    share: 'emptied',
  },
  'pool-rebalance': {
    busy: 'extents are being spread evenly',
    tells: 'is being rebalanced',
    stop: 'rebalancing',
    share: 'rebalanced',
  },
  'pool-dedupe': {
    busy: 'equal pages are being looked for',
    tells: 'is being reduced',
    stop: 'reducing',
    share: 'reduced',
  },
  'volume-convert': {
    busy: 'the volume is being converted',
    tells: 'is being converted',
    stop: 'converting',
    share: 'converted',
  },
  'pool-place-by-heat': {
    busy: 'extents move to the media they are hot enough for',
    tells: 'is being placed by heat',
    stop: 'placing by heat',
    share: 'placed',
  },
} as const;

export const workNames = Object.keys(workWords) as [keyof typeof workWords];
