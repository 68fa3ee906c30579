// Releases of a site in one place: published once, served from everywhere, and made present again.

export type { CacheOptions, StoreCounts, StoreOptions, StoreState } from "../site/site.js";
export { type Published, type PublishOptions, type PublishProgress, publish } from "../site/store/publish.js";
export {
  type ChangeOptions,
  type KeepOptions,
  listReleases,
  planRemoval,
  type Release,
  type Removal,
  removeReleases,
  switchRelease,
} from "../site/store/releases.js";
export type { StoredSite } from "../site/store/stored-site.js";
export { StoreError } from "../sources/store/object-store.js";
