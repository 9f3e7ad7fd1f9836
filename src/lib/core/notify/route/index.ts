export {
  channelsOfRoute,
  contactKinds,
  type ContactKind,
  groupings,
  routeConditionSchema,
  routeForm,
  routeSchema,
  targetSchema,
  targetsOf,
  usesChannel,
  type Grouping,
  type Route,
  type RouteCondition,
  type RoutedIncident,
  type Target
} from './route';
export { addressesOf, namesIn, reachOf, type RoutedAlarm, type RoutingChoices } from './reach';
export {
  conditionText,
  contactWords,
  groupingWords,
  groupText,
  routeSentence,
  stepsText,
  targetText,
  type RouteNames
} from './sentence';
export { lackedFor, routeFor, type RoutePart } from './match';
export {
  afterEvent,
  dueMessages,
  emptyThread,
  hastened,
  isOver,
  nextDue,
  threadForm,
  type NewsKind,
  type Thread,
  type ThreadEvent,
  type ThreadMessage
} from './thread';
export { personOf, tryRoutes, type RotaWithOverrides, type TriedNotification, type TriedRoutes } from './try-routes';
