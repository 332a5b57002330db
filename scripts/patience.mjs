// Specs with a database, a program that is killed or a whole solve in them take many times as long on a busy machine; one that hangs
// still ends. No spec sets a time of its own: a slow machine is no fault of what is tested.
/* global jasmine */
jasmine.DEFAULT_TIMEOUT_INTERVAL = 400_000;
