import { initDatabase } from './db/open';
import { emptyDatabase } from './paths';

// Run by the build: the empty database that new ones are copies of.
await initDatabase(emptyDatabase());
