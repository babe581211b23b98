import { testCluster } from '../../support/cluster'

export default async function setup() {
  const { folder, remove } = await testCluster()
  process.env.TEST_CLUSTER = folder
  return remove
}
