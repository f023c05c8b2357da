import { openPlate } from '@yarlop/pipeline/plate';

export async function probeCommand(path: string): Promise<void> {
  const plate = await openPlate(path);
  await plate.close();
  process.stdout.write(`${JSON.stringify(plate.probe, null, 2)}\n`);
}
