export {
  backupPlanForm,
  backupPlanSchema,
  backupPlanWords,
  lastDue,
  nextBackup,
  usualPlan,
  type BackupPlan
} from './plan';
