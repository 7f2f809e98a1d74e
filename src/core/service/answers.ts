import type { Keeping } from '../kinds/kept-request';

/** A key that rules can ask for. */
export interface FactKey {
  key: string;
  says: string;
  unit: string;
  derived: boolean;
}

export interface ClassRow {
  id: string;
  name: string;
  rules: string[];
  goalMs: number | null;
  says: string;
  notes: string;
  /** How many pools fit it. */
  fits: number;
  volumes: string[];
  /** Volumes that no longer meet it, each with the first rule it does not. */
  left: { volume: string; array: string; rule: string }[];
}

/** What is set aside for a consumer, and what it took; bytes provisioned. */
export interface AllotmentRow {
  id: string;
  name: string;
  contact: string;
  bytes: number;
  takenBytes: number;
  mostVolumes: number | null;
  classes: string[];
  /** Where what it took lies; the most it may take there, null for as much as there is left. */
  pools: { name: string; bytes: number; most: number | null }[];
  volumes: { name: string; array: string; pool: string; bytes: number }[];
  notes: string;
}

/** What somebody asks a place for, kept under a name. */
export interface RequestRow {
  id: string;
  name: string;
  says: string;
  /** As it is written. */
  size: string;
  volumes: number;
  iops: number;
  keeping: Keeping;
  class: string | null;
  rules: string[];
  replica: boolean;
  notes: string;
  /** Volumes that would find a place, and where. */
  fits: number;
  places: string;
}

/** Who can be given storage: a cluster with its members, or a host by itself. */
export interface Receiver {
  name: string;
  cluster: boolean;
  hosts: string[];
}

export interface ClassesAnswer {
  pools: number;
  keys: FactKey[];
  orders: { key: string; words: string[] }[];
  contradictions: { pool: string; array: string; key: string; declared: string; derived: string }[];
  classes: ClassRow[];
  requests: RequestRow[];
  receivers: Receiver[];
  allotments: AllotmentRow[];
}
