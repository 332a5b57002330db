export { makeOutput, NOT_AS_SOLVED, READ_BACK, readBack, writeOutput, type Output, type OutputMotion, type ReadBack } from './output';
export { makeLoop } from './loop';
export { reduceKeys, sampleKeys, worstOf } from './reduce';
export { DEFAULT_PATTERN, nameBy, Names, namesBy, NAME_TOKENS, patternFault, safeName, type NameParts } from './names';
