import { resolve } from "node:path";
import { SiteError } from "../../config/site-error.js";
import { FolderStore } from "../../sources/store/folder-store.js";
import type { ObjectStore } from "../../sources/store/object-store.js";

/** Variables of the environment that say how an object store is reached. */
export type StoreEnvironment = Readonly<Record<string, string | undefined>>;

/**
 * Opens the place of a release store: a folder, or `s3://BUCKET/PREFIX` with S3_ENDPOINT, S3_REGION, S3_ACCESS_KEY_ID and
 * S3_SECRET_ACCESS_KEY (and S3_SESSION_TOKEN) in the environment. Nothing is read yet. Rejects with a SiteError that says what is missing.
 */
export async function openStore(
  place: string,
  environment: StoreEnvironment = process.env,
): Promise<ObjectStore> {
  const [, scheme] = /^([a-z][a-z\d+.-]*):\/\//i.exec(place) ?? [];
  if (scheme === undefined) {
    if (place === "") throw new SiteError(['store: found ""; write a folder, or s3://BUCKET/PREFIX.']);
    return new FolderStore(resolve(place), place);
  }
  if (scheme.toLowerCase() !== "s3")
    throw new SiteError([
      `store: found ${JSON.stringify(place)}; a store is a folder, or a bucket that is reached over the S3 protocol: write s3://BUCKET/PREFIX.`,
    ]);
  const [bucket = "", ...prefix] = place.slice("s3://".length).split("/");
  if (!/^[a-z\d][a-z\d.-]{1,61}[a-z\d]$/.test(bucket))
    throw new SiteError([
      `store: found the bucket ${JSON.stringify(bucket)}; write s3://BUCKET/PREFIX, such as s3://larkholm/site.`,
    ]);
  const { openS3Store } = await import("../../sources/store/s3-store.js");
  return openS3Store(bucket, prefix.filter(Boolean).join("/"), readAccess(place, environment));
}

function readAccess(place: string, environment: StoreEnvironment) {
  const wanted = ["S3_ENDPOINT", "S3_REGION", "S3_ACCESS_KEY_ID", "S3_SECRET_ACCESS_KEY"] as const;
  const missing = wanted.filter((name) => !environment[name]);
  if (missing.length > 0)
    throw new SiteError([
      `store: found no ${missing.join(", no ")} in the environment, which ${place} needs; set ${missing.length === 1 ? "it" : "them"}, such as ${missing[0]}=${EXAMPLES[missing[0]!]}.`,
    ]);
  const [endpoint = "", region = "", accessKeyId = "", secretAccessKey = ""] = wanted.map(
    (name) => environment[name],
  );
  if (!/^https?:\/\/[^/?#]+(?:\/[^?#]*)?$/.test(endpoint))
    throw new SiteError([
      `store: found S3_ENDPOINT=${endpoint}; write the address of the store, such as ${EXAMPLES.S3_ENDPOINT}.`,
    ]);
  return { endpoint, region, accessKeyId, secretAccessKey, sessionToken: environment.S3_SESSION_TOKEN };
}

const EXAMPLES = {
  S3_ENDPOINT: "https://objects.larkholm.example",
  S3_REGION: "eu-north",
  S3_ACCESS_KEY_ID: "larkholm",
  S3_SECRET_ACCESS_KEY: "…",
} as const;
