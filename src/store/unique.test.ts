import { kinds } from '@/core/estate/entities';
import { uniqueKeys } from '@/core/rules/unique';
import { openDatabase } from './database';

test('the database knows the same unique keys', () => {
  const db = openDatabase(':memory:');
  const snake = (name: string) => name.replace(/[A-Z]/g, (letter) => `_${letter.toLowerCase()}`);
  const inBook = new Set(uniqueKeys.map((key) => `${key.of}: ${[...key.fields].sort().join(', ')}`));
  for (const kind of kinds) {
    const lists = db.prepare(`PRAGMA index_list("${snake(kind)}")`).all() as { name: string; unique: number }[];
    for (const { name, unique } of lists) {
      if (!unique) continue;
      const columns = (db.prepare(`PRAGMA index_info("${name}")`).all() as { name: string }[]).map((row) => row.name);
      if (columns.join() === 'id') continue;
      const fields = columns.map((column) => column.replace(/_([a-z])/g, (_, letter: string) => letter.toUpperCase()));
      expect(inBook).toContain(`${kind}: ${fields.sort().join(', ')}`);
    }
  }
});
