import Database from 'better-sqlite3';
import { copyDemo } from './prepared-demo';

// Run after the build: servers take the demo over from here instead of letting its weeks pass anew.
const FILE = '.next/demo.db';
copyDemo(FILE, false);
// One file that is read alone: nothing is written beside it.
const db = new Database(FILE);
db.pragma('journal_mode = DELETE');
db.close();
