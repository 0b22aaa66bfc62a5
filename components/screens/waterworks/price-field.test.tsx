import { screen } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { useWorkspace } from "@/components/draft/site-draft";
import type { Source } from "@/core/site-file/schema";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { SourceForm } from "./element-forms";

function First() {
  const { draft } = useWorkspace("draft");
  return <SourceForm source={draft.sources[0] as Source} />;
}

describe("the price of a source's water", () => {
  it("is by the month, by steps if wanted, in the site's currency, and goes again", async () => {
    const { user, now } = renderOnSite(smallSite(), <First />);
    const price = screen.getByLabelText(/^Price/);
    await user.type(price, "2.4{Tab}");
    expect(now().sources[0]?.price).toEqual({ perM3: 2.4 });
    expect(now().site.currency).toBe("EUR");
    const currency = screen.getByLabelText("Currency of the site");
    await user.clear(currency);
    await user.type(currency, "chf{Enter}");
    expect(now().site.currency).toBe("CHF");
    await user.click(screen.getByRole("button", { name: "Step" }));
    const costs = screen.getByLabelText(/^costs/);
    await user.clear(costs);
    await user.type(costs, "3.1{Tab}");
    expect(now().sources[0]?.price).toEqual({ perM3: 2.4, steps: [{ overM3: 100, perM3: 3.1 }] });
    await user.click(screen.getByRole("button", { name: "Take step 1 out" }));
    expect(now().sources[0]?.price).toEqual({ perM3: 2.4 });
    await user.clear(price);
    await user.tab();
    expect(now().sources[0]).not.toHaveProperty("price");
  });
  it("of a site in US units is by the thousand gallons", async () => {
    const us = smallSite((s) => {
      s.site.units = "us";
    });
    const { user, now } = renderOnSite(us, <First />);
    await user.type(screen.getByLabelText(/^Price/), "3.785411784{Tab}");
    expect(now().sources[0]?.price?.perM3).toBeCloseTo(1, 6);
    expect(now().site.currency).toBe("USD");
  });
});
