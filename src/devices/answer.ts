import type { Refusal } from '@/core/operation/refusal';

/** What a stand-in answers when it is told to carry out a step. */
export type Answer = { ok: true } | { ok: false; refusal: Refusal };
