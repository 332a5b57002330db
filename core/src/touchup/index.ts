export { amountAt } from './curve';
export { layTouchUps, laidOn, NO_TOUCH_UPS, type LaidTouchUp, type LaidTouchUps, type Steering, type Steps, type StepsOf } from './lay';
