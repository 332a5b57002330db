/** Set where Node.js can load modules that way at all. */
const NO_REQUIRE = '--no-experimental-require-module';

/**
 * How a worker thread is started: from its source where the server itself is, else from the bundle beside it. Its module is imported
 * and never required: a thread that is ended while it requires a module takes the whole process with it (SIGABRT).
 * @param name of the worker's file, without its ending
 * @param here address of the module that starts it
 * @param folder in which the source lies, seen from there
 */
export function threadOf(name: string, here: string, folder = '.'): { filename: string; execArgv: string[] } {
  const isSource = here.endsWith('.ts');
  return {
    filename: new URL(isSource ? `${folder}/${name}.ts` : `./${name}.js`, here).href,
    execArgv: [
      ...(isSource ? ['--import', 'tsx'] : []),
      ...(process.allowedNodeEnvironmentFlags.has('--experimental-require-module') ? [NO_REQUIRE] : []),
    ],
  };
}
