/** Of what runs on a cluster: the metrics by which its parts are followed from the whole down to a container. */
export const clusterMetrics = {
  memory: {
    used: 'workload_memory_bytes',
    requested: 'workload_memory_request_bytes',
    limit: 'workload_memory_limit_bytes'
  },
  processor: {
    /** Seconds of processor time: its rate is cores. */
    used: 'workload_processor_seconds',
    requested: 'workload_processor_request',
    limit: 'workload_processor_limit'
  },
  restarts: 'workload_restarts',
  requests: 'workload_requests',
  node: {
    processor: 'host_processor_ratio',
    memory: 'host_memory_ratio',
    network: 'host_network_bytes',
    processorCapacity: 'host_processor_capacity',
    memoryCapacity: 'host_memory_capacity_bytes'
  }
} as const;
