import { Overlay, type EstateView } from '../estate/estate';
import type { Effect } from '../estate/effects';
import { deviceText, fcDevices, loggedIn, type FcDevice } from './devices';
import { zoneBook } from './zoning';
import { someOf } from '../units/counted';

const same = (a: ReadonlySet<string> | null, b: ReadonlySet<string> | null): boolean =>
  a === b || (a !== null && b !== null && a.size === b.size && [...a].every((one) => b.has(one)));

/**
 * Ports that the fabric controller tells of a change (RSCN, FC-LS): those logged in, which all register for it, whose partners differ afterwards.
 * By name.
 */
export function notified(view: EstateView, fabric: string, effects: readonly Effect[]): FcDevice[] {
  const overlay = new Overlay(view);
  overlay.apply(effects);
  const [before, after] = [zoneBook(view, fabric), zoneBook(overlay, fabric)];
  return fcDevices(view)
    .filter((device) => device.fabric === fabric && loggedIn(device))
    .filter((device) => !same(before.partners(device), after.partners(device)))
    .sort((a, b) => (deviceText(a) < deviceText(b) ? -1 : 1));
}

/** The same in a sentence; empty where nobody is told. */
export function notifiedWords(devices: readonly FcDevice[]): string {
  if (devices.length === 0) return '';
  return `${devices.length === 1 ? 'One port is' : `${devices.length} ports are`} told that whom they may meet has changed (RSCN): ${someOf(devices.map(deviceText))}.`;
}
