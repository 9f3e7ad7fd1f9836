export { clusterMetrics } from './metrics';
export { nearLimit, shareOf, sumOf, useStanding, type Use, type UseStanding } from './use';
export { byFullness, groupsOf, type Container, type ContainerGroup } from './containers';
export { clusterTypes, isClusterPart, linesSearch, type ClusterPart } from './searches';
