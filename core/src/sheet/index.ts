export { lookedAt, type Looked, type Picture, type Series } from './look';
export { pictureSvg, seriesSvg, sheetCsv, sheetFigure, sheetHtml, textOf, type SheetFigure, type SheetItem } from './html';
