import { keepsData, outsideOn, usedBlank, type Inspected, type OutsideState } from './outside';
import { movedOn, moveStates, type MoveEvent, type MoveState } from './states';

const confirm: MoveEvent = { event: 'confirm', windowHoldsS: 900, barrierS: 1, pauseS: 3, hostsReportPaths: true };
const through = (from: MoveState, ...events: MoveEvent[]): MoveState =>
  events.reduce((state, event) => {
    const next = movedOn(state, event);
    if (!next.ok) throw new Error(`${state}: ${next.message}`);
    return next.value.state;
  }, from);
const cut = ([1, 2, 3, 4, 5] as const).map((at): MoveEvent => ({ event: 'switched', at, ok: true }));

describe('a move', () => {
  test('from the plan to the end', () => {
    expect(
      through(
        'planned',
        { event: 'check', fits: true },
        { event: 'start', windowOpen: true, slotFree: true },
        { event: 'round', fitsPause: false, stalled: false },
        { event: 'round', fitsPause: true, stalled: false },
        confirm,
        ...cut,
        { event: 'accept', healthy: true },
        { event: 'cleaned' },
      ),
    ).toBe('done');
  });

  test('guards keep it where it is, and say why', () => {
    const reason = (state: MoveState, event: MoveEvent) => {
      const next = movedOn(state, event);
      return next.ok ? next.value.state : next.reason;
    };
    expect(reason('planned', { event: 'check', fits: false })).toBe('move-not-fitting');
    expect(reason('ready', { event: 'start', windowOpen: false, slotFree: true })).toBe('move-window-shut');
    expect(reason('ready', { event: 'start', windowOpen: true, slotFree: false })).toBe('move-no-slot');
    expect(reason('waiting', { ...confirm, windowHoldsS: 3.9 })).toBe('move-window-short');
    expect(reason('waiting', { ...confirm, windowHoldsS: 4 })).toBe('cutting');
    expect(reason('waiting', { ...confirm, hostsReportPaths: false })).toBe('move-paths-missing');
    expect(reason('proving', { event: 'accept', healthy: false })).toBe('move-unhealthy');
    expect(reason('proving', { event: 'roll-back', reverseIntact: false })).toBe('move-no-way-back');
    expect(movedOn('copying', { event: 'round', fitsPause: false, stalled: true })).toMatchObject({
      value: { state: 'copying', asks: true },
    });
    expect(reason('waiting', { event: 'round', fitsPause: false, stalled: true })).toBe('waiting');
  });

  test('before the switch an error lets the source go on, from the switch on it is finished', () => {
    for (const at of [1, 2, 3] as const)
      expect(movedOn('cutting', { event: 'switched', at, ok: false })).toMatchObject({ value: { state: 'waiting' } });
    for (const at of [4, 5] as const)
      expect(movedOn('cutting', { event: 'switched', at, ok: false })).toMatchObject({ value: { state: 'proving' } });
  });

  test('rolled back it waits with its sides exchanged; aborted only before the cut', () => {
    expect(movedOn('proving', { event: 'roll-back', reverseIntact: true })).toMatchObject({
      value: { state: 'waiting', turned: true },
    });
    expect(moveStates.filter((state) => movedOn(state, { event: 'abort' }).ok)).toEqual([
      'ready',
      'copying',
      'waiting',
    ]);
  });

  test('nothing else happens anywhere', () => {
    expect(movedOn('done', confirm)).toMatchObject({ reason: 'move-event' });
    expect(movedOn('planned', { event: 'cleaned' })).toMatchObject({ reason: 'move-event' });
  });
});

describe('a LUN of an outside array', () => {
  const found: Inspected = {
    serial: 'CB9-0004',
    sectorBytes: 512,
    reservedBy: null,
    writtenS: null,
    holds: null,
    seenBy: null,
    pool: null,
  };
  const written = { ...found, writtenS: 40, holds: 'an XFS file system, last written 40 s ago' };

  test('the example: in use it is not kept, with its content not accepted it is not erased', () => {
    expect(keepsData(written)).toMatchObject({ reason: 'import-in-use', message: 'Written 40 s ago; stop the host.' });
    expect(usedBlank(written, { typed: 'CB9-0004', accepted: false })).toMatchObject({
      reason: 'import-signature-not-accepted',
    });
    expect(usedBlank(written, { typed: 'CB9-0004', accepted: true })).toMatchObject({ value: 'member' });
  });

  test('refusals in their order', () => {
    expect(keepsData({ ...written, reservedBy: 'gate-1', sectorBytes: 520 })).toMatchObject({
      reason: 'import-reserved',
    });
    expect(keepsData({ ...found, sectorBytes: 520 })).toMatchObject({ reason: 'import-sector-size' });
    expect(keepsData({ ...found, writtenS: 60 }).ok).toBe(true);
    const blank = (more: Partial<Inspected>, typed = 'CB9-0004') =>
      usedBlank({ ...found, ...more }, { typed, accepted: false });
    expect(blank({ seenBy: 'gate-1', pool: 'hold' }, 'CB9-0005')).toMatchObject({ reason: 'import-serial-differs' });
    expect(blank({ seenBy: 'gate-1', holds: 'x', pool: 'hold' })).toMatchObject({ reason: 'import-mapped' });
    expect(blank({ pool: 'hold' })).toMatchObject({ reason: 'import-in-other-pool' });
  });

  test('kept, shown, copied, released; given back as long as it is not', () => {
    const path: [OutsideState, Parameters<typeof outsideOn>[1], OutsideState][] = [
      ['found', { event: 'inspect', readable: true }, 'inspected'],
      ['inspected', { event: 'keep', found }, 'fenced'],
      ['fenced', { event: 'show', hostsOffOldPath: true }, 'fronted'],
      ['fronted', { event: 'copy', poolHasRoom: true }, 'copying'],
      ['copying', { event: 'copied' }, 'moved'],
      ['moved', { event: 'release' }, 'done'],
      ['fronted', { event: 'give-back' }, 'found'],
      ['moved', { event: 'give-back' }, 'found'],
    ];
    for (const [from, event, to] of path) expect(outsideOn(from, event)).toMatchObject({ value: to });
    expect(outsideOn('done', { event: 'give-back' })).toMatchObject({ reason: 'import-event' });
    expect(outsideOn('fenced', { event: 'show', hostsOffOldPath: false })).toMatchObject({ reason: 'import-mapped' });
    expect(outsideOn('found', { event: 'inspect', readable: false })).toMatchObject({ reason: 'import-unreadable' });
  });
});
