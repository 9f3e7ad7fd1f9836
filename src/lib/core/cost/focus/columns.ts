/** How a column of FOCUS is written. */
export type FocusType = 'text' | 'decimal' | 'moment' | 'currency' | 'choice' | 'map';

export interface FocusColumn {
  readonly name: string;
  readonly type: FocusType;
  /** Whether a file has to have the column, and whether its cells may be empty. */
  readonly isMandatory: boolean;
  readonly isNullable: boolean;
  /** What a column of a choice may hold. */
  readonly choices?: readonly string[];
}

export const focusChargeCategories = ['Usage', 'Purchase', 'Tax', 'Credit', 'Adjustment'] as const;

export const focusServiceCategories = [
  'AI and Machine Learning',
  'Analytics',
  'Business Applications',
  'Compute',
  'Databases',
  'Developer Tools',
  'Multicloud',
  'Identity',
  'Integration',
  'Internet of Things',
  'Management and Governance',
  'Media',
  'Migration',
  'Mobile',
  'Networking',
  'Security',
  'Storage',
  'Web',
  'Other'
] as const;

type Kind = 'has' | 'may be empty' | 'if it applies';
const column = (name: string, type: FocusType, kind: Kind, choices?: readonly string[]): FocusColumn => ({
  ...{ name, type, isMandatory: kind !== 'if it applies', isNullable: kind !== 'has' },
  ...(choices && { choices })
});

/** The columns of FOCUS 1.0 (FinOps Open Cost and Usage Specification), in the order in which they are written. */
export const focusColumns: readonly FocusColumn[] = [
  column('AvailabilityZone', 'text', 'if it applies'),
  column('BilledCost', 'decimal', 'has'),
  column('BillingAccountId', 'text', 'has'),
  column('BillingAccountName', 'text', 'may be empty'),
  column('BillingCurrency', 'currency', 'has'),
  column('BillingPeriodEnd', 'moment', 'has'),
  column('BillingPeriodStart', 'moment', 'has'),
  column('ChargeCategory', 'choice', 'has', focusChargeCategories),
  column('ChargeClass', 'choice', 'may be empty', ['Correction']),
  column('ChargeDescription', 'text', 'may be empty'),
  column('ChargeFrequency', 'choice', 'if it applies', ['One-Time', 'Recurring', 'Usage-Based']),
  column('ChargePeriodEnd', 'moment', 'has'),
  column('ChargePeriodStart', 'moment', 'has'),
  column('CommitmentDiscountCategory', 'choice', 'if it applies', ['Spend', 'Usage']),
  column('CommitmentDiscountId', 'text', 'if it applies'),
  column('CommitmentDiscountName', 'text', 'if it applies'),
  column('CommitmentDiscountStatus', 'choice', 'if it applies', ['Used', 'Unused']),
  column('CommitmentDiscountType', 'text', 'if it applies'),
  column('ConsumedQuantity', 'decimal', 'if it applies'),
  column('ConsumedUnit', 'text', 'if it applies'),
  column('ContractedCost', 'decimal', 'has'),
  column('ContractedUnitPrice', 'decimal', 'if it applies'),
  column('EffectiveCost', 'decimal', 'has'),
  column('InvoiceIssuerName', 'text', 'has'),
  column('ListCost', 'decimal', 'has'),
  column('ListUnitPrice', 'decimal', 'if it applies'),
  column('PricingCategory', 'choice', 'if it applies', ['Standard', 'Dynamic', 'Committed', 'Other']),
  column('PricingQuantity', 'decimal', 'may be empty'),
  column('PricingUnit', 'text', 'may be empty'),
  column('ProviderName', 'text', 'has'),
  column('PublisherName', 'text', 'has'),
  column('RegionId', 'text', 'if it applies'),
  column('RegionName', 'text', 'if it applies'),
  column('ResourceId', 'text', 'if it applies'),
  column('ResourceName', 'text', 'if it applies'),
  column('ResourceType', 'text', 'if it applies'),
  column('ServiceCategory', 'choice', 'has', focusServiceCategories),
  column('ServiceName', 'text', 'has'),
  column('SkuId', 'text', 'if it applies'),
  column('SkuPriceId', 'text', 'if it applies'),
  column('SubAccountId', 'text', 'if it applies'),
  column('SubAccountName', 'text', 'if it applies'),
  column('Tags', 'map', 'if it applies')
];

/** Columns that a file must have for what Bussola makes of it. */
export const neededColumns = [
  'BilledCost',
  'BillingCurrency',
  'ChargeCategory',
  'ChargePeriodStart',
  'ChargePeriodEnd',
  'ServiceName'
] as const;
