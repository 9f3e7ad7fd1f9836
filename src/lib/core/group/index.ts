export {
  belonging,
  groupForm,
  groupLabels,
  groupRuleSchema,
  groupSchema,
  groupSentence,
  type GroupDefinition,
  type GroupRule
} from './rule';
