// What an account of pages is
export {
  findSchema,
  mostTargets,
  nameOfTarget,
  signInSchema,
  targetListSchema,
  targetSchema,
  targetsForm,
  targetsSchema,
  type Target,
  type Targets
} from './definition';
export { readTargetLines, targetLines, type ReadTargetLines } from './target-lines';
// What becomes of their series
export { applyingRules, pageRuleSchema, type PageRule, type RuledSeries } from './rules';
// Reading one, and when
export { readPage, type ReadPage, type ReadTarget } from './read-page';
export { nextAfter, phaseOf } from './phase';
