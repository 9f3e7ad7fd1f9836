export {
  backupPlanForm,
  backupPlanSchema,
  backupPlanWords,
  lastDue,
  nextBackup,
  rehearsals,
  usualPlan,
  type BackupPlan
} from './plan';
