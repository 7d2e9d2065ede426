"""A job's page in a real browser: correcting what was entered, inviting by a link, joining with it."""

from __future__ import annotations

import re

from playwright.sync_api import expect


def to_job(page):
    page.get_by_role("link", name="Jobs").click()
    page.get_by_role("link", name="Harbour Year").first.click()
    expect(page.get_by_role("heading", name="Harbour Year")).to_be_visible()


def test_what_was_entered_of_a_job_is_corrected_and_a_size_that_is_none_is_refused(
    signed_in, no_barriers
):
    page = signed_in()
    to_job(page)
    expect(page.get_by_role("status").first).to_contain_text("11 pictures")
    form = page.get_by_role("form", name="What was entered")
    client = form.get_by_label("client").input_value()
    form.get_by_label("client").fill("Town archive, second floor")
    form.get_by_role("button", name="another size").click()
    added = form.get_by_role("group", name="size 3")
    added.get_by_label("called").fill("postcard")
    added.get_by_label("as large as").fill("a hand")
    form.get_by_role("button", name="keep it").click()
    expect(form.get_by_role("alert")).to_be_visible()
    no_barriers()
    added.get_by_role("button", name="leave it out").click()
    form.get_by_role("button", name="keep it").click()
    expect(form.get_by_role("button", name="as it was")).to_have_count(0)
    page.reload()
    expect(form.get_by_label("client")).to_have_value("Town archive, second floor")
    form.get_by_label("client").fill(client)
    form.get_by_role("button", name="keep it").click()
    expect(form.get_by_role("button", name="as it was")).to_have_count(0)


def test_what_the_client_lets_pass_is_set_on_the_jobs_page(signed_in, no_barriers):
    page = signed_in()
    to_job(page)
    bar = page.get_by_role("region", name="The client's bar")
    before = bar.inner_text()
    bar.get_by_role("button", name="by kind of flaw").click()
    dialog = page.get_by_role("dialog", name=re.compile("Harbour Year lets pass"))
    grain = dialog.get_by_role("combobox", name="grain")
    was = grain.input_value()
    no_barriers()
    grain.select_option("never")
    dialog.get_by_role("button", name="keep this bar").click()
    expect(dialog).to_have_count(0)
    page.reload()
    expect(bar).to_contain_text(re.compile("more of [0-9]+ kinds?"))
    bar.get_by_role("button", name="by kind of flaw").click()
    expect(grain).to_have_value("1.01")
    grain.select_option(was)
    dialog.get_by_role("button", name="keep this bar").click()
    expect(dialog).to_have_count(0)
    expect(bar).to_have_text(re.compile(re.escape(before.split("\n")[-1].split(" by kind")[0])))


def test_somebody_is_invited_by_a_link_joins_and_is_taken_out_again(signed_in, no_barriers):
    page = signed_in()
    to_job(page)
    invitations = page.get_by_role("region", name="Invitations")
    invitations.get_by_label("what they are called").fill("Lena Brodt")
    invitations.get_by_role("button", name="make a link").click()
    link = invitations.get_by_label("the link")
    expect(link).to_have_value(re.compile("/join/"))
    expect(invitations).to_contain_text("Lena Brodt as retoucher")
    no_barriers()
    address = link.input_value()

    page.context.clear_cookies()
    page.goto(address)
    expect(page.get_by_text("Vera Lund invites you as retoucher")).to_be_visible()
    no_barriers()
    expect(page.get_by_label("what you are called")).to_have_value("Lena Brodt")
    page.get_by_label("name to sign in with").fill("mona")
    page.get_by_label("password").fill("harbour-lights-9")
    page.get_by_role("button", name="join").click()
    expect(page.get_by_role("alert")).to_contain_text("taken")
    page.get_by_label("name to sign in with").fill("lena")
    page.get_by_role("button", name="join").click()
    # A retoucher begins with their slips, of which there are none.
    expect(page.get_by_text("No slips for you")).to_be_visible(timeout=20_000)

    page.context.clear_cookies()
    page.goto(address)
    expect(page.get_by_role("alert")).to_contain_text("This link opens nothing")
    page.goto("/")
    signed_in()
    to_job(page)
    people = page.get_by_role("region", name="People")
    row = people.get_by_role("row", name=re.compile("Lena Brodt"))
    row.get_by_label("role of Lena Brodt").select_option("guest")
    expect(row.get_by_label("role of Lena Brodt")).to_have_value("guest")
    row.get_by_role("button", name="take out").click()
    row.get_by_role("button", name="yes, take Lena Brodt out").click()
    expect(people.get_by_role("row", name=re.compile("Lena Brodt"))).to_have_count(0)
