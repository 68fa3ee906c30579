export { type Accepted, acceptKnown, loadAccepted } from "./accepted.js";
export type { Finding, FindingGroup, Severity } from "./finding.js";
export { reportHtml } from "./reports/html.js";
export { type JudgedSurvey, reportJson } from "./reports/json.js";
export { reportSarif } from "./reports/sarif.js";
export { groupFindings, type Survey, type SurveyOptions, surveySite } from "./survey.js";
