import { demoEstate } from '../../../demo/scenario';
import { carryOut, codesOf, named } from '../../../demo/workbench';
import { changed } from '../estate/effects';
import type { Estate } from '../estate/estate';
import { discover } from './discover';
import { badReferrals } from './refer';

/** The demo, and a port of purlin-1 that serves NVMe/TCP in one network with those of lintel-1. */
function twoServices(): Estate {
  const { estate } = demoEstate();
  const purlin = named(estate, 'array', 'purlin-1');
  const port = estate
    .table('port')
    .by('array', purlin.id)
    .find((row) => row.kind === 'ethernet')!;
  estate.apply([
    changed('port', port, { role: 'nvme-tcp', addresses: [{ ip: '10.40.11.31', prefix: 24 }], vlan: null }),
  ]);
  carryOut(estate, [{ do: 'subsystem.create', array: 'purlin-1', name: 'vault', allowed: ['berth-sim'] }], 'vault');
  return estate;
}
const refer = (array: string, ...referrals: string[]) => ({ do: 'array.configure', array, referrals });
const services = (estate: Estate) => {
  const { entries, warnings } = discover(estate, named(estate, 'host', 'berth-sim'));
  return { told: [...new Set(entries.map((one) => `${one.array} by ${one.referredBy || 'itself'}`))], warnings };
};

test('a host asks what is referred to, and is told by whom; referrals in a circle are told and followed once', () => {
  const estate = twoServices();
  const before = services(estate);
  expect(before).toEqual({ told: ['lintel-1 by itself', 'purlin-1 by itself'], warnings: [] });
  const told = ['lintel-1 by itself', 'purlin-1 by lintel-1'];
  carryOut(estate, [refer('lintel-1', '10.40.11.31')], 'forth');
  expect(services(estate)).toEqual({ told, warnings: [] });
  carryOut(estate, [refer('purlin-1', '10.40.11.12:8009')], 'back');
  expect(services(estate).told).toEqual(told);
  expect(services(estate).warnings).toContain('lintel-1 refers to purlin-1, which leads back to it.');
  expect(badReferrals(estate, named(estate, 'array', 'purlin-1')).map((bad) => bad.says)).toEqual([
    'purlin-1 refers to lintel-1, which leads back to it.',
  ]);
});

test('what is no address, its own, or named twice is refused; where nothing answers it is said', () => {
  const estate = twoServices();
  const codes = (...referrals: string[]) => codesOf(estate, refer('lintel-1', ...referrals));
  expect(codes('10.40.11')).toEqual(['referral-unreadable']);
  expect(codes('10.40.11.31:70000')).toEqual(['referral-unreadable']);
  expect(codes('10.40.11.11')).toEqual(['referral-itself']);
  expect(codes('10.40.11.31', '10.40.11.31:8009')).toEqual(['referral-twice']);
  expect(codes()).toEqual(['nothing-changes']);
  carryOut(estate, [refer('lintel-1', '10.40.11.99')], 'nowhere');
  expect(badReferrals(estate, named(estate, 'array', 'lintel-1'))).toMatchObject([
    { says: 'lintel-1 refers to 10.40.11.99:8009, where nothing answers.' },
  ]);
  expect(services(estate).warnings).toEqual(['Nothing answers at 10.40.11.99:8009, to which a referral leads.']);
});

test('a service that is there and out of reach is told so, and not as silent', () => {
  const estate = twoServices();
  const port = [...estate.table('port').values()].find((row) => row.addresses[0]?.ip === '10.40.11.31')!;
  estate.apply([changed('port', port, { addresses: [{ ip: '10.99.0.31', prefix: 24 }] })]);
  carryOut(estate, [refer('lintel-1', '10.99.0.31')], 'far');
  expect(services(estate).warnings).toEqual([
    'A referral leads to purlin-1 at 10.99.0.31:8009, which berth-sim does not reach.',
  ]);
});
