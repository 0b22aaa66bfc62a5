import type { Knex } from "knex";
import * as foundations from "./0001-foundations.ts";
import * as library from "./0002-library.ts";
import * as learning from "./0004-learning.ts";
import * as alarmEntries from "./0005-alarm-entries.ts";
import * as pressureAlarms from "./0006-pressure-alarms.ts";
import * as drills from "./0008-drills.ts";
import * as fieldGateway from "./0007-field-gateway.ts";
import * as roundFacts from "./0009-round-facts.ts";
import * as sessionsAndFence from "./0010-sessions-and-fence.ts";
import * as onceTable from "./0011-once.ts";
import * as refused from "./0012-refused.ts";
import * as brokerAndLeases from "./0013-broker-and-leases.ts";
import * as keptFiles from "./0026-kept-files.ts";
import * as theme from "./0029-theme.ts";
import * as fileAsWritten from "./0030-file-as-written.ts";
import * as water from "./0031-water.ts";
import * as datesAndLogo from "./0032-dates-and-logo.ts";
import * as meters from "./0033-meters.ts";
import * as comparedAnew from "./0034-compared-anew.ts";
import * as visits from "./0035-visits.ts";
import * as valveChecks from "./0036-valve-checks.ts";
import * as timeline from "./0037-timeline.ts";
import * as waterMonths from "./0038-water-months.ts";
import * as paperByMail from "./0039-paper-by-mail.ts";
import * as walks from "./0040-walks.ts";
import * as meteredWater from "./0041-metered-water.ts";
import * as nightsAhead from "./0042-nights-ahead.ts";
import * as foundByHead from "./0043-found-by-head.ts";
import * as officeDeeds from "./0028-office-deeds.ts";
import * as places from "./0027-places.ts";
import * as keptAndAudited from "./0014-kept-and-audited.ts";
import * as lookupAndSketch from "./0015-lookup-and-sketch.ts";
import * as controllers from "./0016-controllers.ts";
import * as costsAndNow from "./0017-costs-and-now.ts";
import * as nights from "./0018-nights.ts";
import * as profiles from "./0003-profiles.ts";
import * as people from "./0019-people.ts";
import * as siteGroups from "./0020-site-groups.ts";
import * as deeds from "./0021-deeds.ts";
import * as roundsAhead from "./0022-rounds-ahead.ts";
import * as told from "./0023-told.ts";
import * as deletedSites from "./0024-deleted-sites.ts";
import * as organisationSettings from "./0025-organisation-settings.ts";

/** In order of name; forward only. */
export const migrations: Record<string, Knex.Migration> = {
  "0001-foundations": foundations,
  "0002-library": library,
  "0003-profiles": profiles,
  "0004-learning": learning,
  "0005-alarm-entries": alarmEntries,
  "0006-pressure-alarms": pressureAlarms,
  "0007-field-gateway": fieldGateway,
  "0008-drills": drills,
  "0009-round-facts": roundFacts,
  "0010-sessions-and-fence": sessionsAndFence,
  "0011-once": onceTable,
  "0012-refused": refused,
  "0013-broker-and-leases": brokerAndLeases,
  "0014-kept-and-audited": keptAndAudited,
  "0015-lookup-and-sketch": lookupAndSketch,
  "0016-controllers": controllers,
  "0017-costs-and-now": costsAndNow,
  "0018-nights": nights,
  "0019-people": people,
  "0020-site-groups": siteGroups,
  "0021-deeds": deeds,
  "0022-rounds-ahead": roundsAhead,
  "0023-told": told,
  "0024-deleted-sites": deletedSites,
  "0025-organisation-settings": organisationSettings,
  "0026-kept-files": keptFiles,
  "0027-places": places,
  "0028-office-deeds": officeDeeds,
  "0029-theme": theme,
  "0030-file-as-written": fileAsWritten,
  "0031-water": water,
  "0032-dates-and-logo": datesAndLogo,
  "0033-meters": meters,
  "0034-compared-anew": comparedAnew,
  "0035-visits": visits,
  "0036-valve-checks": valveChecks,
  "0037-timeline": timeline,
  "0038-water-months": waterMonths,
  "0039-paper-by-mail": paperByMail,
  "0040-walks": walks,
  "0041-metered-water": meteredWater,
  "0042-nights-ahead": nightsAhead,
  "0043-found-by-head": foundByHead,
};
