'use client';
import { createContext } from 'react';

/** Columns of the Span that are to stay in sight; null for all. A sheet says which ones its operation is about. */
export const VisibleColumns = createContext<readonly number[] | null>(null);
