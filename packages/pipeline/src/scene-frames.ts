/** On which frames a Screen rests on the camera of the scene. */
import type { ScreenFile } from '@yarlop/contracts/validate';
import { isPresent } from '@yarlop/core/follow/memory/follower-state';
import { partsOf } from './sections';

/**
 * @param usual whether it does where its recipe, or the section that a frame lies in, says nothing of it
 * @returns null where it does on none
 */
export function sceneFrames(recipe: ScreenFile, usual: boolean): ((frame: number) => boolean) | null {
  const parts = partsOf(recipe);
  if (!parts.some((p) => p.screen.scene ?? usual)) return null;
  const { presence = [] } = recipe;
  return (frame) => isPresent({ presence }, frame) && (parts.find((p) => frame <= p.to)?.screen.scene ?? usual);
}
