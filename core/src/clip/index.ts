export * from './clip';
