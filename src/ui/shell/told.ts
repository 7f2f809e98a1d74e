'use client';
import { createContext, useContext } from 'react';
import type { Work } from '@/core/lab/view';

export const WorkContext = createContext<Work | null>(null);

/** The long work the server tells of, or null; it is somebody's, and the one who waits knows whose. */
export const useWork = (): Work | null => useContext(WorkContext);
