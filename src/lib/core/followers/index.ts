export {
  changedBy,
  changeKindNames,
  changeKinds,
  changeWords,
  factsOfChange,
  followerSchema,
  type Change,
  type ChangeKind,
  type Follower
} from './changes';
