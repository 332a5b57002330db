// Specs with a database or a whole solve in them are slow on a busy machine; a spec that hangs still ends.
/* global jasmine */
jasmine.DEFAULT_TIMEOUT_INTERVAL = 60_000;
