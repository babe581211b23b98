export { withVisibleControls } from './controls'
export * from './names'
export * from './sentences'
export * from './reasons'
