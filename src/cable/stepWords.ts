import { className, megabytes } from '../core/image/judgeImage'
import type { WritingStep } from './writeImage'

/** A step of writing as people read it. */
export function stepWords(step: WritingStep): string {
  switch (step.step) {
    case 'reaching':
      return 'Reaching the chip’s loader …'
    case 'found':
      return `Found ${className(step.chip)}, hardware address ${step.hardware}${step.flash === null ? '' : `, ${megabytes(step.flash)} of flash`}.`
    case 'erasing':
      return 'Erasing everything on it …'
    case 'writing':
      return `Writing, ${Math.floor((100 * step.done) / Math.max(1, step.of))} %`
    case 'comparing':
      return 'Comparing what it holds …'
    case 'starting':
      return 'Starting it …'
  }
}
