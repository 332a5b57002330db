/** Advisory file locks of the operating system, which die with the process that holds them (OFD locks; LockFileEx on Windows). */
declare module 'fs-native-extensions' {
  /** @returns false when another open file holds it */
  export function tryLock(fd: number): boolean;
  export function unlock(fd: number): void;
}
