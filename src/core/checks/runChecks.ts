import type { Catalog } from '../catalog/catalog'
import type { Design } from '../model/design'
import type { Surroundings } from '../surroundings/surroundings'
import type { Wiring } from '../wiring/netlist'
import { checkContext, completed, type Rule } from './context'
import { type Finding, SEVERITIES } from './finding'
import { adcSource } from './rules/adc-source'
import { adcSpan } from './rules/adc-span'
import { addressClash } from './rules/address-clash'
import { bulkMissing } from './rules/bulk-missing'
import { busEdges } from './rules/bus-edges'
import { busPullOver } from './rules/bus-pull-over'
import { busTooLong } from './rules/bus-too-long'
import { cannotRelease } from './rules/cannot-release'
import { caution } from './rules/caution'
import { fedWhileOff } from './rules/fed-while-off'
import { chargeRate } from './rules/charge-rate'
import { cellCold } from './rules/cell-cold'
import { cellFeedsNothing } from './rules/cell-feeds-nothing'
import { cellLeftUnused } from './rules/cell-left-unused'
import { chipCurrent } from './rules/chip-current'
import { backFeed } from './rules/back-feed'
import { coilWithoutPath } from './rules/coil-without-path'
import { contactArc } from './rules/contact-arc'
import { contactRating } from './rules/contact-rating'
import { floatingInput } from './rules/floating-input'
import { wetContact, couplerInput, noCommonGround, acForDc } from './rules/foreign-voltage'
import { fuseMissing } from './rules/fuse-missing'
import { inputOverMaximum } from './rules/input-over-maximum'
import { isolationBridged } from './rules/isolation-bridged'
import { ladderGap } from './rules/ladder-gap'
import { lampInSwitch } from './rules/lamp-in-switch'
import { lampString } from './rules/lamp-string'
import { lampWithoutResistor } from './rules/lamp-without-resistor'
import { leakage } from './rules/leakage'
import { levelNotReached } from './rules/level-not-reached'
import { lineWithoutPin } from './rules/line-without-pin'
import { loadLoose } from './rules/load-loose'
import { loadNotWired } from './rules/load-not-wired'
import { longWire } from './rules/long-wire'
import { loopStates } from './rules/loop-states'
import { wireLeftOver, lookAlike } from './rules/made-wires'
import { matrixGhosts } from './rules/matrix-ghosts'
import { notCalibrated } from './rules/not-calibrated'
import { outsidePullMissing } from './rules/outside-pull-missing'
import { pinCurrent } from './rules/pin-current'
import { opposingOutputs } from './rules/opposing-outputs'
import { passThrough } from './rules/pass-through'
import { pinAsks } from './rules/pin-asks'
import { playedContact } from './rules/played-contact'
import { pwmTooFast } from './rules/pwm-too-fast'
import { secondFeed } from './rules/second-feed'
import { pinUnfit, strapFought, movesAtPowerUp } from './rules/pin-unfit'
import { pressesTooClose } from './rules/presses-too-close'
import { railOverload } from './rules/rail-overload'
import { regulatorHeat, regulatorHeadroom, twoSupplies } from './rules/regulator'
import { awakeConsumers } from './rules/awake-consumers'
import { sleepUnfit } from './rules/sleep-unfit'
import { tamperInLoop } from './rules/tamper-in-loop'
import { warmUpTooLong } from './rules/warm-up-too-long'
import { sleepsWithOutputs } from './rules/sleeps-with-outputs'
import { startsByItself } from './rules/starts-by-itself'
import { supplyOpen } from './rules/supply-open'
import { supplyRange } from './rules/supply-range'
import { swingsBelowGround } from './rules/swings-below-ground'
import { codesTooShort } from './rules/codes-too-short'
import { cannotSay, sendersNotCarried } from './rules/senders-not-carried'
import { memory } from './rules/memory'
import { oneWireUnnamed } from './rules/one-wire-unnamed'
import { noLongestTime } from './rules/no-longest-time'
import { networkGone, placeGone } from './rules/gone-from-shop'
import { wireDrop } from './rules/wire-drop'

/** Every rule there is. */
export const RULES: readonly Rule[] = [
  lineWithoutPin,
  pinUnfit,
  strapFought,
  movesAtPowerUp,
  pwmTooFast,
  pinAsks,
  supplyOpen,
  cellFeedsNothing,
  cellLeftUnused,
  cellCold,
  chargeRate,
  fedWhileOff,
  supplyRange,
  acForDc,
  railOverload,
  regulatorHeat,
  regulatorHeadroom,
  twoSupplies,
  fuseMissing,
  wireDrop,
  bulkMissing,
  inputOverMaximum,
  busPullOver,
  wetContact,
  noCommonGround,
  isolationBridged,
  backFeed,
  cannotRelease,
  levelNotReached,
  couplerInput,
  pinCurrent,
  chipCurrent,
  lampWithoutResistor,
  coilWithoutPath,
  contactArc,
  contactRating,
  loadLoose,
  loadNotWired,
  passThrough,
  playedContact,
  secondFeed,
  lampInSwitch,
  lampString,
  floatingInput,
  outsidePullMissing,
  leakage,
  longWire,
  busEdges,
  busTooLong,
  addressClash,
  oneWireUnnamed,
  codesTooShort,
  sendersNotCarried,
  cannotSay,
  memory,
  adcSpan,
  adcSource,
  swingsBelowGround,
  ladderGap,
  matrixGhosts,
  loopStates,
  tamperInLoop,
  noLongestTime,
  opposingOutputs,
  startsByItself,
  pressesTooClose,
  sleepsWithOutputs,
  sleepUnfit,
  awakeConsumers,
  warmUpTooLong,
  lookAlike,
  wireLeftOver,
  caution,
  notCalibrated,
  placeGone,
  networkGone,
]

/** All findings of a design, gravest first, in a fixed order. Never throws on an unfinished design. */
export function runChecks(
  design: Design,
  catalog: Catalog,
  wiring?: Wiring,
  around: Surroundings | null = null,
): Finding[] {
  const context = checkContext(design, catalog, wiring, around)
  if (!context) return []
  return RULES.flatMap((rule) => rule.check(context).map((r) => completed(rule, r))).sort(
    (a, b) => SEVERITIES.indexOf(a.severity) - SEVERITIES.indexOf(b.severity),
  )
}
