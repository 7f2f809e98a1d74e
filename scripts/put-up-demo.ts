import { copyDemo } from './prepared-demo';

// Run after the build: servers take the demo over from here instead of letting its weeks pass anew.
copyDemo('.next/demo.db', false);
