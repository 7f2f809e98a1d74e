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

export interface ClassesAnswer {
  pools: number;
  keys: FactKey[];
  orders: { key: string; words: string[] }[];
  contradictions: { pool: string; array: string; key: string; declared: string; derived: string }[];
  classes: ClassRow[];
  allotments: AllotmentRow[];
}
