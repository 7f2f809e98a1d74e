import { formOf } from '../../naming/diagnose';
import { formatWwn } from '../../naming/wwn';
import { deviceByWwpn, fcDevices, loggedIn } from '../../fabric/devices';
import { standsFor } from '../../fabric/member';
import type { EstateView } from '../../estate/estate';
import { hostOf, interfaceOf, portOf, volumeOf } from '../../estate/relations';
import { offer, type Check } from '../finding';
import { aboutHost, traceOf, wantedGaps } from './context';
import { someOf } from '../../units/counted';

const arrayName = (view: EstateView, id: string): string => view.table('array').get(id)!.name;

export const portChecks: Check[] = [
  {
    id: 'host-port-not-logged-in',
    severity: 'error',
    title: 'Host ports without a fabric login',
    *find(view) {
      for (const row of view.table('initiator').values()) {
        yield null;
        if (formOf(row.name) !== 'wwn') continue;
        const device = deviceByWwpn(view, row.name);
        if (device && loggedIn(device)) continue;
        const host = hostOf(view, row);
        yield {
          subject: { kind: 'initiator', id: row.id, name: `${host.name} ${device?.name ?? formatWwn(row.name)}` },
          says: `${host.name} ${device?.name ?? formatWwn(row.name)} has no fabric login${device?.switch ? `: ${device.switch.state === 'down' ? `switch ${device.switch.name} is down` : 'the port is down'}` : ''}.`,
          advice: 'Look at the cable, the switch port and its speed.',
          mend: null,
        };
      }
    },
  },
  {
    id: 'array-port-down',
    severity: 'error',
    title: 'Array ports that are down',
    *find(view, { attach }) {
      const lost = new Map<string, number>();
      for (const pairing of attach().pairings())
        for (const gap of wantedGaps(pairing))
          if (gap.reason === 'array-port-down' || gap.reason === 'portal-down')
            lost.set(
              gap.port,
              (lost.get(gap.port) ?? 0) +
                pairing.mappings.filter((one) => one.ports === null || one.ports.includes(gap.port)).length,
            );
      for (const [id, paths] of lost) {
        yield null;
        const port = view.table('port').get(id)!;
        yield {
          subject: { kind: 'port', id, name: `${arrayName(view, port.array)} ${port.name}` },
          says: `${port.name} is down: ${paths} ${paths === 1 ? 'path is' : 'paths are'} lost.`,
          advice: 'Bring it up, or replace its module.',
          mend: null,
        };
      }
    },
  },
  {
    id: 'controller-down',
    severity: 'error',
    title: 'Controllers that are down',
    *find(view) {
      for (const row of view.table('controller').values()) {
        yield null;
        if (row.state === 'up') continue;
        const other = view
          .table('controller')
          .by('array', row.array)
          .find((one) => one.state === 'up');
        const volumes = view.table('volume').countBy('owner', row.id);
        yield {
          subject: { kind: 'controller', id: row.id, name: `${arrayName(view, row.array)} controller ${row.name}` },
          says: `Controller ${row.name} of ${arrayName(view, row.array)} is down; ${other ? `${other.name} has taken its ${volumes} volumes` : 'nothing serves its volumes'}.`,
          advice: 'Repair it and bring it up; its volumes go back to it.',
          mend: offer('Give back', 'controller.give-back', {
            array: arrayName(view, row.array),
            controller: row.name,
          }),
        };
      }
    },
  },
  {
    id: 'fabric-crossed',
    severity: 'error',
    title: 'Ports in the wrong fabric',
    *find(view) {
      const devices = new Map(fcDevices(view).map((device) => [`wwpn:${device.wwpn}`, device]));
      for (const zone of view.table('zone').values()) {
        yield null;
        const set = new Set(
          [...zone.members, ...zone.principals].flatMap((member) => standsFor(view, zone.fabric, member)),
        );
        for (const member of set) {
          const device = devices.get(member);
          if (!device?.fabric || device.fabric === zone.fabric) continue;
          const fabric = (id: string) => view.table('fabric').get(id)!.name;
          yield {
            subject: { kind: 'zone', id: zone.id, name: zone.name },
            says: `${device.ownerName} ${device.name} is plugged into fabric ${fabric(device.fabric)}; its zone ${zone.name} is in fabric ${fabric(zone.fabric)}.`,
            advice: 'Move the cable, or zone it where it is.',
            mend: null,
          };
        }
      }
    },
  },
  {
    id: 'single-fabric-host',
    severity: 'warning',
    title: 'Hosts on one fabric',
    *find(view, { attach }) {
      if (view.table('fabric').size < 2) return;
      for (const { host, sessions, array, mappings } of attach().pairings()) {
        yield null;
        const over = sessions.up.filter((session) => session.transport === 'fc');
        const fabrics = new Set(over.map((session) => session.network));
        if (fabrics.size !== 1) continue;
        const name = view.table('fabric').get([...fabrics][0]!)!.name;
        const other = [...view.table('fabric').values()].find((fabric) => fabric.name !== name)!;
        yield {
          subject: aboutHost(host),
          says: `${host.name} depends on fabric ${name} alone for ${array.name}.`,
          advice: `Give it paths in fabric ${other.name}, too.`,
          mend: offer(`Join in ${other.name}`, 'zoning.join', {
            fabric: other.name,
            host: host.name,
            array: array.name,
          }),
          trace: traceOf(view, host, mappings[0]!),
        };
      }
    },
  },
  {
    id: 'paths-single',
    severity: 'error',
    title: 'Volumes on one path',
    *find(view, { attach }) {
      const { finder, pairings } = attach();
      for (const { host, array, mappings } of pairings()) {
        yield null;
        const single = mappings.filter((mapping) => finder.count(mapping).usable === 1);
        if (single.length === 0) continue;
        const [path] = finder.paths(single[0]!).found;
        yield {
          subject: aboutHost(host),
          says: `${someOf(single.map((one) => volumeOf(view, one).name))} at ${host.name} ${single.length === 1 ? 'hangs' : 'hang'} on one path, ${interfaceOf(view, path!).name} to ${array.name} ${portOf(view, path!).name}.`,
          advice: 'Give it a second path.',
          mend: null,
          trace: traceOf(view, host, single[0]!),
        };
      }
    },
  },
];
