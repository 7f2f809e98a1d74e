import type { Port } from '../estate/entities';
import type { EstateView } from '../estate/estate';

/** The array port that listens at an address, with or without a port number behind it. */
export const lookUpAddress = (view: EstateView, text: string): Port | undefined =>
  view
    .table('port')
    .by('ip', text.trim().replace(/[:/].*$/, ''))
    .find((port) => port.role !== 'none');
