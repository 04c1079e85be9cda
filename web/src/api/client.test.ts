import { describe, expect, test } from "vitest";
import { detailOf, Refused, taken } from "./client";

describe("what the server refuses is said in its own words", () => {
  test("a sentence", () => {
    const refused = detailOf({ detail: "'moth.tif' is damaged. Export it again." }, 422);
    expect(refused).toBeInstanceOf(Refused);
    expect(refused.message).toContain("moth.tif");
    expect(refused.status).toBe(422);
  });

  test("a list of what does not fit", () => {
    expect(detailOf({ detail: [{ msg: "Too large." }, { msg: "Too wide." }] }, 422).message).toBe(
      "Too large. Too wide.",
    );
  });

  test("nothing that can be read", () => {
    expect(detailOf("<html>", 502).message).toContain("502");
    expect(detailOf(undefined, 500).message).toContain("log");
  });
});

test("an answer is taken or thrown", async () => {
  const good = { data: 7, response: new Response(null, { status: 200 }) };
  const bad = { error: { detail: "no" }, response: new Response(null, { status: 409 }) };
  expect(await taken(Promise.resolve(good))).toBe(7);
  await expect(taken(Promise.resolve(bad))).rejects.toMatchObject({ status: 409, message: "no" });
});
