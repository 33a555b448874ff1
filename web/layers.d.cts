import type { IForbiddenRuleType } from 'dependency-cruiser'

declare function rules(root?: string): IForbiddenRuleType[]
export = rules
