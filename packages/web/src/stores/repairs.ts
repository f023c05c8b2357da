/** What is proposed and not yet done: drawn as curves before anything is changed. */
import type { RepairPlan } from '@yarlop/core/proof/repair-plan';
import type { Settled } from '@yarlop/core/proof/settle';
import { defineStore } from 'pinia';
import { shallowRef } from 'vue';

export interface ProposedPlan extends RepairPlan {
  readonly screen: number;
  readonly limit: number;
  readonly frames: readonly number[];
}

export interface ProposedSettle extends Settled {
  readonly screen: number;
}

export const useRepairs = defineStore('repairs', () => {
  const plan = shallowRef<ProposedPlan | null>(null);
  const settled = shallowRef<ProposedSettle | null>(null);
  return { plan, settled };
});
