//! What every view shows, and how people get there.

use crate::support::folder;
use crate::{Opened, page};
use rstest::rstest;
use serde_json::{Value, json};

#[test]
fn every_view_opens_and_fetches_nothing() {
    let Some(mut opened) = Opened::demo("") else { return };
    for width in [1280, 390] {
        opened.browser.resize(width, 800);
        for address in
            ["#overview", "#findings", "#list=service", "#modules", "#cycles", "#list=contract", "#list=type"]
        {
            opened.browser.go(address);
            assert!(opened.shown().len() > 40, "{address}: {}", opened.shown());
            let overflow = opened.browser.value("document.documentElement.scrollWidth > innerWidth");
            assert_eq!(overflow, json!(false), "{address} is wider than a window of {width}");
        }
    }
    opened.assert_quiet();
}

#[test]
fn the_overview_says_whether_to_deploy_and_what_to_begin_with() {
    let Some(mut opened) = Opened::demo("") else { return };
    let shown = opened.shown();
    assert!(shown.starts_with("Do not deploy this"), "{shown}");
    let summary = &opened.report["summary"];
    let numbers =
        format!("{} errors, {} warnings, {} notes", summary["errors"], summary["warnings"], summary["notes"]);
    assert!(shown.contains(&numbers), "{numbers} is not in {shown}");
    let first = opened.findings()[0]["subject"].as_str().unwrap().to_owned();
    assert!(shown.contains(&first), "{shown}");
    for spot in opened.report["blind_spots"].as_array().unwrap() {
        assert!(shown.contains(spot["subject"].as_str().unwrap()), "{spot}");
    }
    let fixed = folder(&[]);
    crate::support::run(&["demo", "--fixed", "--write", "velmora"], fixed.path());
    let mut fixed = Opened::of(fixed, "velmora", "").unwrap();
    assert!(fixed.shown().starts_with("Nothing is wrong with the wiring"), "{}", fixed.shown());
}

#[rstest]
#[case::none("#findings", |_: &Value| true)]
#[case::severity("#findings&severity=warning,note", |one: &Value| one["severity"] != "error")]
#[case::rule("#findings&rule=missing-implementation", |one: &Value| one["rule"] == "missing-implementation")]
#[case::family("#findings&family=cycles", |one: &Value| one["rule"].as_str().unwrap().ends_with("-cycle"))]
#[case::module("#findings&module=depot", |one: &Value| {
    one["places"][0]["file"].as_str().is_some_and(|file| file.starts_with("modules/depot/"))
})]
#[case::start_up("#findings&start=1", |one: &Value| one["fails"]["start_up"] == true)]
#[case::stage("#findings&stage=production", |one: &Value| {
    let stages = one["holds"]["stages"].as_array();
    stages.is_none_or(|stages| stages.contains(&json!("production")))
})]
#[case::no_stage("#findings&stage=-", |one: &Value| one["holds"].is_null() || one["holds"]["none_chosen"] == true)]
#[case::text("#findings&text=DEPOT", |one: &Value| {
    let texts = ["subject", "message", "rule"].map(|field| one[field].as_str().unwrap().to_lowercase());
    texts.iter().any(|text| text.contains("depot"))
})]
#[case::two_at_once("#findings&severity=error&start=1", |one: &Value| {
    one["severity"] == "error" && one["fails"]["start_up"] == true
})]
fn filters_count_as_the_json_report_does(#[case] address: &str, #[case] is_such: fn(&Value) -> bool) {
    let Some(mut opened) = Opened::demo(address) else { return };
    let expected = opened.count(is_such);
    assert!(expected > 0);
    assert_eq!(opened.left(), expected);
    opened.assert_quiet();
}

#[test]
fn filters_are_set_by_their_controls() {
    let Some(mut opened) = Opened::demo("#findings") else { return };
    opened.browser.value("document.querySelector('.filters input[type=checkbox]').click()");
    opened.browser.settle();
    assert_eq!(opened.left(), opened.count(|finding| finding["severity"] != "error"));
    opened.browser.go("#findings");
    opened.browser.value("document.getElementById('text').focus()");
    opened.browser.type_text("fleet");
    let expected = opened.count(|finding| {
        ["subject", "message"].iter().any(|field| finding[field].as_str().unwrap().contains("fleet"))
    });
    opened.browser.wait(&format!("document.getElementById('shown').textContent.startsWith('{expected} of')"));
    let is_kept = opened.browser.value("document.activeElement.id === 'text'");
    assert_eq!(is_kept, json!(true), "who types goes on typing");
}

#[test]
fn a_finding_has_its_places_when_it_fails_and_what_to_do() {
    let Some(mut opened) = Opened::demo("") else { return };
    for number in 0..opened.findings().len() {
        let finding = opened.findings()[number].clone();
        opened.browser.go(&format!("#findings&finding={}", number + 1));
        let detail = opened.browser.text("document.querySelector('.detail').innerText");
        let place = &finding["places"][0];
        let address = format!("{}:{}:{}", place["file"].as_str().unwrap(), place["line"], place["column"]);
        assert!(detail.contains(&address), "{address} is not in {detail}");
        for fix in finding["fixes"].as_array().unwrap() {
            let title = fix["title"].as_str().unwrap().replace('`', "");
            assert!(detail.replace('`', "").contains(&title), "{title} is not in {detail}");
        }
    }
    opened.assert_quiet();
}

#[test]
fn a_link_leads_to_one_thing_with_all_that_is_known_of_it() {
    let Some(mut opened) = Opened::demo("#service=timetable.board") else { return };
    assert_eq!(opened.heading(), "service timetable.board");
    let folder = opened.folder.path().to_owned();
    let sheet =
        crate::support::run(&["show", "timetable.board", "--root", "velmora", "--format", "json"], &folder)
            .json();
    let shown = opened.shown();
    for (section, facts) in sheet["sections"].as_object().unwrap() {
        assert!(shown.contains(&section.replace('_', " ")) || section == "findings", "{section} in {shown}");
        for fact in facts.as_array().unwrap() {
            let place =
                fact["line"].as_u64().map(|line| format!("{}:{line}", fact["file"].as_str().unwrap()));
            assert!(
                section == "findings" || place.as_ref().is_none_or(|place| shown.contains(place)),
                "{fact}"
            );
            for field in ["slot", "name"] {
                assert!(fact[field].as_str().is_none_or(|name| shown.contains(name)), "{fact} in {shown}");
            }
        }
    }
    opened
        .browser
        .value("[...document.querySelectorAll('.facts a')].find(a => a.textContent === 'Clock').click()");
    opened.browser.settle();
    assert_eq!(opened.heading(), "contract Clock");
    opened.browser.go("#service=no.such");
    assert_eq!(opened.heading(), "No service here is called no.such");
}

#[test]
fn things_of_every_kind_can_be_opened() {
    let Some(mut opened) = Opened::demo("") else { return };
    for kind in ["service", "contract", "tag", "setting", "provider", "module", "entry", "type"] {
        opened.browser.go(if kind == "module" { "#modules" } else { "#overview" });
        opened.browser.go(&format!("#list={kind}"));
        opened.browser.wait("document.querySelectorAll('.row').length > 0");
        opened.browser.value("document.querySelector('.row').click()");
        opened.browser.settle();
        assert!(opened.heading().starts_with(kind), "{kind}: {}", opened.heading());
        assert!(opened.elements(".facts tr") > 0, "{kind} {}", opened.shown());
    }
    opened.assert_quiet();
}

#[test]
fn values_of_settings_are_not_in_it() {
    let Some(mut opened) = Opened::demo("#setting=timetable.horizon_minutes") else { return };
    let shown = opened.shown();
    assert!(shown.contains("timetable.board, slot horizon"), "{shown}");
    assert!(!shown.contains("90"), "{shown}");
}

#[test]
fn search_is_over_names_and_types_and_needs_no_pointer() {
    let Some(mut opened) = Opened::demo("") else { return };
    opened.browser.press("/");
    opened.browser.type_text("departureboard");
    let hits = opened.browser.text("document.getElementById('hits').innerText");
    assert!(hits.contains("timetable.board") && hits.contains("velmora.timetable.DepartureBoard"), "{hits}");
    opened.browser.press("ArrowDown");
    opened.browser.press("Enter");
    assert!(opened.heading().starts_with("service timetable."), "{}", opened.heading());
    opened.browser.press("/");
    opened.browser.type_text("no such thing");
    assert!(opened.browser.text("document.getElementById('hits').innerText").contains("nothing here"));
    opened.browser.press("Escape");
    assert_eq!(opened.browser.value("document.getElementById('hits').hidden"), json!(true));
}

#[test]
fn lists_are_walked_by_keyboard() {
    let Some(mut opened) = Opened::demo("#findings") else { return };
    opened.browser.wait("document.querySelectorAll('.row').length > 3");
    opened.browser.value("document.querySelector('.row').focus()");
    opened.browser.press("ArrowDown");
    opened.browser.press("ArrowDown");
    opened.browser.press("Enter");
    let third = opened.findings()[2]["subject"].as_str().unwrap().to_owned();
    assert!(opened.heading().ends_with(&third), "{}", opened.heading());
}

#[test]
fn the_matrix_opens_the_needs_behind_a_cell() {
    let Some(mut opened) = Opened::demo("#modules") else { return };
    opened.browser.value("document.querySelector('.matrix').focus()");
    opened.browser.wait("document.querySelector('.matrix canvas') !== null");
    // From the corner down to the row of crossings, whose first cell says how often it needs signals.
    opened.browser.press("ArrowDown");
    opened.browser.press("ArrowDown");
    let told = opened.browser.text("document.querySelector('.filters small').textContent");
    assert_eq!(told, "crossings needs signals 4 times");
    opened.browser.press("Enter");
    let behind = opened.browser.text("document.querySelector('.behind').innerText");
    assert!(behind.starts_with("crossings needs signals 4 times"), "{behind}");
    assert_eq!(opened.elements(".behind tr"), 4);
    let is_drawn = opened.browser.value(
        "(() => { const canvas = document.querySelector('.matrix canvas'); const drawn = canvas.getContext('2d').getImageData(0, 0, canvas.width, canvas.height).data; return drawn.some((value, at) => at % 4 === 3 && value > 0); })()",
    );
    assert_eq!(is_drawn, json!(true));
    // By pointer the same: the name before a row leads to its module.
    let place = opened.browser.value(
        "(() => { const box = document.querySelector('.matrix canvas').getBoundingClientRect(); return [box.left + 30, box.top + box.height / 2]; })()",
    );
    opened.browser.click(place[0].as_f64().unwrap(), place[1].as_f64().unwrap());
    assert!(opened.heading().starts_with("module "), "{}", opened.heading());
    opened.assert_quiet();
}

#[test]
fn a_cycle_group_is_drawn_with_what_opens_it() {
    let Some(mut opened) = Opened::demo("#cycles") else { return };
    assert_eq!(opened.heading(), "cycle group of 3");
    assert_eq!(opened.elements(".picture rect"), 3);
    assert_eq!(opened.elements(".picture path.edge"), 3);
    let shown = opened.shown();
    assert!(shown.contains("service-cycle") && shown.contains("make one of these"), "{shown}");
}

#[test]
fn a_large_cycle_group_is_a_matrix() {
    let services: String = (0..20)
        .map(|n| format!("  p{n:02}: {{ needs: {{ n: {{ service: p{:02} }} }} }}\n", (n + 1) % 20))
        .collect();
    let manifest = format!(
        "corvant: 1\nmodule: depot\nservices:\n{services}entries:\n  e: {{ needs: {{ x: {{ service: p00 }} }} }}\n"
    );
    let Some(mut opened) = Opened::of(folder(&[("a.wiring.yaml", &manifest)]), ".", "#cycle=1") else {
        return;
    };
    assert_eq!(opened.heading(), "cycle group of 20");
    assert_eq!(opened.elements(".matrix canvas"), 1);
}

#[test]
fn the_neighbourhood_unfolds_step_by_step() {
    let Some(mut opened) = Opened::demo("#service=depot.yard") else { return };
    let before = opened.elements(".picture rect");
    assert!(opened.elements(".picture .more") > 0);
    opened.browser.value("document.querySelector('.picture .more').focus()");
    opened.browser.press("Enter");
    let unfolded = opened.elements(".picture rect");
    assert!(unfolded > before, "{before} and {unfolded}");
    opened.assert_quiet();
}

#[test]
fn what_is_printed_is_whole() {
    let Some(mut opened) = Opened::demo("#findings") else { return };
    opened.browser.wait("document.querySelectorAll('.row').length > 3");
    opened.browser.call("Emulation.setEmulatedMedia", &json!({ "media": "print" }));
    opened.browser.value("dispatchEvent(new Event('beforeprint'))");
    assert_eq!(opened.elements(".row"), opened.findings().len());
    let shown = opened.browser.value("getComputedStyle(document.getElementById('tabs')).display");
    assert_eq!(shown, json!("none"));
    let printed = opened.browser.call("Page.printToPDF", &json!({}));
    assert!(printed["data"].as_str().unwrap().len() > 10_000);
}

#[test]
fn of_a_long_list_only_what_is_in_sight_exists() {
    let services: String = (0..30_000).map(|n| format!("  s{n:05}: {{}}\n")).collect();
    let manifest = format!("corvant: 1\nmodule: depot\nservices:\n{services}");
    let Some(mut opened) = Opened::of(folder(&[("a.wiring.yaml", &manifest)]), ".", "#list=service") else {
        return;
    };
    opened.browser.wait("document.querySelectorAll('.row').length > 3");
    assert!(opened.elements(".row") < 60);
    opened.browser.value("document.querySelector('.list').scrollTop = 1e9");
    opened.browser.wait("document.querySelector('.list').innerText.includes('s29999')");
    assert!(opened.elements(".row") < 60);
    let path = page(opened.folder.path());
    opened.browser.open(&path, "#list=service&text=s2999");
    opened.browser.wait("document.getElementById('shown').textContent === '10 of 30,000'");
    opened.assert_quiet();
}

#[test]
fn a_page_of_a_comparison_begins_with_the_changes() {
    let folder = folder(&[]);
    crate::support::run(&["demo", "--write", "velmora", "--history"], folder.path());
    let root = folder.path().join("velmora");
    let compare = ["compare", "HEAD~1", "--format", "html", "--output", "../report.html"];
    let json = crate::support::run(&["compare", "HEAD~1", "--format", "json"], &root).json();
    assert_eq!(crate::support::run(&compare, &root).status, 1);
    let Some(program) = corvant_testing::validators::browser("the page of a comparison") else { return };
    let mut browser = corvant_testing::browser::Browser::start(&program, 1280, 800);
    browser.open(&page(folder.path()), "");
    let shown = browser.text("document.getElementById('view').innerText");
    assert!(shown.starts_with("This change brings faults"), "{shown}");
    for change in json["definitions"].as_array().unwrap() {
        assert!(shown.contains(change["name"].as_str().unwrap()), "{change}");
    }
    browser.value(
        "[...document.querySelectorAll('#view a')].find(a => a.textContent === 'timetable.board').click()",
    );
    browser.settle();
    assert_eq!(browser.text("document.querySelector('#view h1').textContent"), "service timetable.board");
    browser.go("#overview");
    assert!(browser.text("document.getElementById('view').innerText").starts_with("Do not deploy this"));
    assert_eq!(browser.complaints(), Vec::<String>::new());
}

#[test]
fn a_page_of_what_is_supposed_ends_with_the_edits() {
    let folder = folder(&[]);
    crate::support::run(&["demo", "--fixed", "--write", "velmora"], folder.path());
    let supposed =
        ["suppose", "--root", "velmora", "--lazy", "depot.gate.open", "--choose", "Clock=signals.clock"];
    let call = |more: &[&str]| crate::support::run(&[&supposed[..], more].concat(), folder.path());
    assert_eq!(call(&["--format", "html", "--output", "report.html"]).status, 0);
    let text = call(&[]).stdout;
    let Some(program) = corvant_testing::validators::browser("the page of what is supposed") else { return };
    let mut browser = corvant_testing::browser::Browser::start(&program, 1280, 800);
    browser.open(&page(folder.path()), "");
    let patch = browser.text("document.querySelector('#view pre').textContent");
    assert!(patch.starts_with("--- a/modules/depot") && text.contains(&patch), "{patch}");
    let shown = browser.text("document.getElementById('view').innerText");
    assert!(shown.ends_with("definition has to say it"), "{shown}");
    // What could not be seen stands before the edits, in the words of the text.
    let unseen = text.lines().find(|line| line.trim_start().starts_with("museum in both")).unwrap();
    assert!(shown.contains(unseen.trim()), "{unseen}");
    assert_eq!(browser.complaints(), Vec::<String>::new());
}
