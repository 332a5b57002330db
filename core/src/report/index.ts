export * from './facts';
export * from './report';
