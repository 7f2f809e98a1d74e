// Finds a Chromium for the browser tests; on Debian, where it is missing and we may, installs it.
import { existsSync } from 'node:fs';
import { run } from './install.mjs';

const places = [process.env.CHROMIUM_PATH, '/usr/bin/chromium', '/usr/bin/chromium-browser'].filter(Boolean);

/** The path of a browser, or null with a word of advice on the console. */
export async function chromium() {
  const found = places.find((place) => existsSync(place));
  if (found) return found;
  const isRoot = process.getuid?.() === 0;
  if (isRoot && existsSync('/usr/bin/apt-get')) {
    console.log('Installing Chromium for the browser tests.');
    const quiet = { stdio: ['ignore', 'ignore', 'inherit'], env: { DEBIAN_FRONTEND: 'noninteractive' } };
    await run('apt-get', ['update', '-qq'], quiet);
    if (
      (await run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', 'chromium'], quiet)) === 0 &&
      existsSync('/usr/bin/chromium')
    )
      return '/usr/bin/chromium';
  }
  console.error(
    'The browser tests need Chromium. Install it (on Debian, as root: apt-get install chromium), or name one with CHROMIUM_PATH.',
  );
  return null;
}
