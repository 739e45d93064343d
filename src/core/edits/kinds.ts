import { acceptPlan } from './kinds/acceptPlan'
import { addComponent } from './kinds/addComponent'
import { addPart } from './kinds/addPart'
import { addSignal } from './kinds/addSignal'
import { calibrate } from './kinds/calibrate'
import { chooseBoard } from './kinds/chooseBoard'
import { condition } from './kinds/condition'
import { connect } from './kinds/connect'
import { copyPart } from './kinds/copyPart'
import { feed } from './kinds/feed'
import { feedBoard } from './kinds/feedBoard'
import { gather } from './kinds/gather'
import { identify } from './kinds/identify'
import { keepFree } from './kinds/keepFree'
import { lock } from './kinds/lock'
import { makeState } from './kinds/makeState'
import { madeOtherwise } from './kinds/madeOtherwise'
import { markWire } from './kinds/markWire'
import { placePart } from './kinds/placePart'
import { publish } from './kinds/publish'
import { recordFound } from './kinds/recordFound'
import { removeComponent } from './kinds/removeComponent'
import { removePart } from './kinds/removePart'
import { removeSignal } from './kinds/removeSignal'
import { renamePart } from './kinds/renamePart'
import { renameSignal } from './kinds/renameSignal'
import { setBus } from './kinds/setBus'
import { setCost } from './kinds/setCost'
import { setGroup } from './kinds/setGroup'
import { setGuard } from './kinds/setGuard'
import { setMeasured } from './kinds/setMeasured'
import { setPart } from './kinds/setPart'
import { setRule } from './kinds/setRule'
import { setWire } from './kinds/setWire'
import { sleep } from './kinds/sleep'
import { unlock } from './kinds/unlock'

/** Everything a person can do to a design, beside taking something back. One kind, one file in `kinds/`. */
export const DESIGN_EDITS = [
  addPart,
  removePart,
  renamePart,
  setPart,
  feed,
  addSignal,
  makeState,
  removeSignal,
  renameSignal,
  condition,
  publish,
  calibrate,
  chooseBoard,
  identify,
  copyPart,
  gather,
  setBus,
  sleep,
  setMeasured,
  setRule,
  setGuard,
  setGroup,
  connect,
  setCost,
  lock,
  unlock,
  keepFree,
  acceptPlan,
  addComponent,
  removeComponent,
  markWire,
  setWire,
  placePart,
  recordFound,
  feedBoard,
  madeOtherwise,
] as const
