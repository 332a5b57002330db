export { lookedAt, lookedAtJoints, type Looked, type Picture, type Series } from './look';
export { sheetFigure, textOf, type SheetFigure, type SheetItem } from './item';
export { pictureShape, sheetHtml, type PictureShape } from './html';
export { sheetCsv } from './csv';
export {
  CHECK_SHEET_FORMAT,
  checkSheetRecord,
  checkSheetSchema,
  DELIVERY_FORMAT,
  deliverySchema,
  figureRecordOf,
  limitsInForce,
  rateOf,
  RECORD_SCHEMAS,
  worstVerdict,
  type CheckSheetRecord,
  type DeliveryRecord,
} from './records';
