import type { OperationDocument } from '@/core/change/registry';
import { DAY } from '@/core/units/duration';

interface NightChange {
  title: string;
  operations: OperationDocument[];
  terms: {
    approvedBy: string;
    second: false;
    startAt: null;
    fromHour: number | null;
    untilHour: number | null;
    days: [];
    onFailure: 'stop' | 'undo';
    confirm: number[];
    waits: number;
    mail: string;
  };
}

const usual = {
  second: false as const,
  startAt: null,
  days: [] as [],
  onFailure: 'undo' as const,
  mail: 'storage desk, Nordkai',
};

/** Approved for tonight: it waits for its window. */
export const tonight: NightChange = {
  title: 'Watch the vault closer',
  operations: [
    { do: 'drive.assign-spare', array: 'purlin-1', drives: ['0:57'] },
    { do: 'pool.configure', array: 'purlin-1', name: 'vault', notice: 60 },
  ],
  terms: { ...usual, approvedBy: 'M. Okkema', fromHour: 22, untilHour: 5, confirm: [], waits: DAY },
};

/** Begun in the night; what cannot be taken back waits for a person. */
export const asked: NightChange = {
  title: 'Put the third camera away',
  operations: [
    { do: 'volume.configure', array: 'purlin-1', volumes: ['camera-02'], notes: 'takes over from camera-03' },
    { do: 'volume.delete', array: 'purlin-1', volumes: ['camera-03'], keepDays: 0 },
  ],
  terms: { ...usual, approvedBy: 'T. Wierda', fromHour: null, untilHour: null, confirm: [1], waits: 30 * DAY },
};
