export { amountAt, maskAt } from './curve';
export {
  cutTouchUps,
  layTouchUps,
  laidOn,
  NO_TOUCH_UPS,
  type LaidTouchUp,
  type LaidTouchUps,
  type Steering,
  type Steps,
  type StepsOf,
} from './lay';
