import { describe, expect, it } from "vitest";
import { alarmsLetter, escalatedLetter, morningLetter, overdueLetter, withinHours } from "./letters.ts";

const alarm = (site: string, n = 1) => ({
  site,
  message: `Station ${n} reads too much.`,
  at: "14 Jul 22:10",
  url: `http://x/${n}`,
});

describe("letters", () => {
  it("name the site of one alarm, and count several", () => {
    expect(alarmsLetter([alarm("Dell Pond")])).toEqual({
      subject: "Alarm at Dell Pond",
      body: "Dell Pond, 14 Jul 22:10\nStation 1 reads too much.\nhttp://x/1",
    });
    const two = alarmsLetter([alarm("Dell Pond"), alarm("Alder Walk", 2), alarm("Dell Pond", 3)]);
    expect(two.subject).toBe("3 alarms at Dell Pond, Alder Walk");
    expect(two.body.split("\n\n")).toHaveLength(3);
  });
  it("say how long nobody acknowledged", () => {
    const { subject, body } = escalatedLetter([alarm("Dell Pond")], 15);
    expect(subject).toBe("Nobody has acknowledged 1 alarm at Dell Pond");
    expect(body).toContain("Open for 15 minutes or longer");
  });
  it("tell no more than thirty one by one, and keep the subject short", () => {
    const all = Array.from({ length: 40 }, (_, i) => alarm(`A site with a long name ${i}`, i));
    const { subject, body } = alarmsLetter(all);
    expect(subject).toHaveLength(120);
    expect(body).toContain("And 10 more.");
  });
  it("of a morning name who needs somebody, or say that nobody does", () => {
    const sites = [{ name: "Dell Pond", why: ["1 open alarm", "14 min short tonight"], url: null }];
    expect(morningLetter("Tue 14 Jul", sites, 7)).toEqual({
      subject: "Tue 14 Jul: 1 site of 7 need somebody",
      body: "Dell Pond\n  1 open alarm\n  14 min short tonight",
    });
    expect(morningLetter("Tue 14 Jul", [], 7).subject).toBe("Tue 14 Jul: nothing needs anybody");
    expect(overdueLetter(sites).subject).toBe("Overdue at Dell Pond");
  });
});

describe("hours", () => {
  it("may go over midnight; from and to alike are all day", () => {
    expect([
      withinHours("06:59", "07:00", "18:00"),
      withinHours("07:00", "07:00", "18:00"),
      withinHours("18:00", "07:00", "18:00"),
    ]).toEqual([false, true, false]);
    expect([
      withinHours("23:00", "22:00", "06:00"),
      withinHours("05:59", "22:00", "06:00"),
      withinHours("12:00", "22:00", "06:00"),
    ]).toEqual([true, true, false]);
    expect(withinHours("03:00", "00:00", "00:00")).toBe(true);
  });
});
