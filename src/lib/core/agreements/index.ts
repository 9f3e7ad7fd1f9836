export {
  agreementFileSchema,
  agreementKinds,
  agreementText,
  readAgreementFile,
  type AgreementFile,
  type AgreementKind,
  type FileAgreement,
  type ReadAgreementFile
} from './file';
