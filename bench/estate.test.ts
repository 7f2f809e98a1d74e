import { brokenRules } from '@/core/rules/book';
import { Estate } from '@/core/estate/estate';
import { countAllPaths } from '@/core/attach/paths';
import { attachedEstate } from './attached-estate';
import { generateEstate } from './estate';

test('a generated estate keeps every rule, and is the same for the same seed', () => {
  const scale = { arrays: 3, volumes: 200, hosts: 12, seed: 'x' };
  const effects = generateEstate(scale);
  const estate = new Estate();
  estate.apply(effects);
  expect(brokenRules(estate)).toEqual([]);
  expect(countAllPaths(estate)).toEqual({ mappings: 200, usable: 800, expected: 800 });
  expect(JSON.stringify(generateEstate(scale))).toBe(JSON.stringify(effects));
  expect(JSON.stringify(generateEstate({ ...scale, seed: 'y' }))).not.toBe(JSON.stringify(effects));
});

test('an estate over Fibre Channel keeps every rule; all its paths stand', () => {
  const scale = { arrays: 8, portsPerArray: 8, hosts: 24, volumes: 120, seed: 'x' };
  const effects = attachedEstate(scale);
  const estate = new Estate();
  estate.apply(effects);
  expect(brokenRules(estate)).toEqual([]);
  expect(countAllPaths(estate)).toEqual({ mappings: 120, usable: 480, expected: 480 });
  expect(JSON.stringify(attachedEstate(scale))).toBe(JSON.stringify(effects));
});
