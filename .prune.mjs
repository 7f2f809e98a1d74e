// removes unused imported names reported by eslint json
import { execSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
const files = process.argv.slice(2);
let out; try { out = execSync(`npx eslint -f json ${files.join(' ')}`, { stdio: ['ignore','pipe','ignore'], maxBuffer: 1e8 }).toString(); } catch (e) { out = e.stdout.toString(); }
for (const f of JSON.parse(out)) {
  const names = f.messages.filter(m => m.ruleId === '@typescript-eslint/no-unused-vars').map(m => /'(\w+)' is defined/.exec(m.message)?.[1]).filter(Boolean);
  if (!names.length) continue;
  let s = readFileSync(f.filePath, 'utf8');
  s = s.replace(/^import (type )?\{([^}]*)\} from ('[^']*');\n/gm, (all, t, list, from) => {
    const kept = list.split(',').map(x => x.trim()).filter(Boolean).filter(x => !names.includes(x.replace(/^type /, '').replace(/.* as /, '')));
    return kept.length ? `import ${t ?? ''}{ ${kept.join(', ')} } from ${from};\n` : '';
  });
  writeFileSync(f.filePath, s);
}
