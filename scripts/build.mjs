// npm run build: installs what is missing, and builds the application with its demo, unless that stands already.
import { build, installPackages } from './install.mjs';

await installPackages();
await build();
