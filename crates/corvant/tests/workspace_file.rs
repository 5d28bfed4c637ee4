//! `corvant.toml`, `--rule`, `accept`, `schema` and the other commands around an audit.

mod support;

use rstest::rstest;
use std::fs;
use support::{folder, run};

const PAGE: &str = "corvant: 1\nmodule: web\nservices: { web.page: {}, web.old: {} }\nentries: { page: { needs: { x: { service: web.page } } } }\n";

#[rstest]
#[case::broken("[rules\n", "corvant.toml:1:7: not well-formed TOML: ")]
#[case::no_text("\u{0}", "corvant.toml:1:1: not well-formed TOML: ")]
fn a_broken_workspace_file_ends_the_audit_with_a_place(#[case] text: &str, #[case] message: &str) {
    let folder = folder(&[("corvant.toml", text), ("web.wiring.yaml", PAGE)]);
    let outcome = run(&["audit"], folder.path());
    assert_eq!((outcome.status, outcome.stdout.as_str()), (2, ""));
    assert!(
        outcome.stderr.starts_with(&format!("corvant: the workspace file cannot be used: {message}")),
        "{outcome:#?}"
    );
}

#[test]
fn a_workspace_file_in_another_encoding_ends_the_audit() {
    let folder = folder(&[("web.wiring.yaml", PAGE)]);
    fs::write(folder.path().join("corvant.toml"), b"# \xff\n").unwrap();
    let outcome = run(&["audit"], folder.path());
    assert_eq!(outcome.status, 2);
    assert!(outcome.stderr.contains("corvant.toml: not UTF-8 text: byte 2"), "{}", outcome.stderr);
}

#[test]
fn mistakes_in_the_workspace_file_are_findings_and_the_rest_of_it_counts() {
    let text = "[rules]\nunused-servce = 'off'\nunused-service = 'of'\n[worksapce]\n[workspace]\nexclude = ['a[', 'old']\n\
                [lifetimes]\norder = ['process', 'use', 'process']\ndefault = 'day'\n";
    let files = [("corvant.toml", text), ("web.wiring.yaml", PAGE), ("old/old.wiring.yaml", "]")];
    let folder = folder(&files);
    let outcome = run(&["audit", "--format", "json"], folder.path());
    let mut found = outcome.subjects();
    found.sort();
    let expected = [
        ("unknown-field", "rules.unused-servce"),
        ("unknown-field", "worksapce"),
        ("unused-service", "web.old"),
        ("wrong-shape", "lifetimes.default"),
        ("wrong-shape", "lifetimes.order.2"),
        ("wrong-shape", "lifetimes.order.3"),
        ("wrong-shape", "rules.unused-service"),
        ("wrong-shape", "workspace.exclude.1"),
    ];
    assert_eq!(found, expected.map(|(rule, subject)| (rule.to_owned(), subject.to_owned())));
    assert_eq!(outcome.json()["summary"]["manifests"], 1);
}

#[test]
fn members_and_exclusions_decide_what_is_read() {
    let text = "[workspace]\nmembers = ['modules/*', 'plugins/*']\nexclude = ['**/old']\n";
    let files = [
        ("corvant.toml", text),
        ("modules/web/web.wiring.yaml", PAGE),
        ("modules/web/old/x.wiring.yaml", "]"),
        ("drafts/x.wiring.yaml", "]"),
    ];
    let folder = folder(&files);
    let outcome = run(&["audit", "--format", "json"], folder.path());
    let report = outcome.json();
    assert_eq!(report["summary"]["manifests"], 1);
    assert_eq!(report["blind_spots"][0]["kind"], "empty-member");
    assert_eq!(report["blind_spots"][0]["subject"], "plugins/*");
}

#[rstest]
#[case::stricter(&["--rule", "unused-service=error"], 1, "error 1 of 1  unused-service")]
#[case::off(&["--rule", "unused-service=off"], 0, "nothing is wrong")]
#[case::the_last_counts(&["--rule", "unused-service=error", "--rule", "unused-service=note"], 0, "note 1 of 1")]
fn the_command_line_goes_before_the_workspace_file(
    #[case] arguments: &[&str],
    #[case] status: i32,
    #[case] says: &str,
) {
    let folder = folder(&[("corvant.toml", "rules.unused-service = 'warning'\n"), ("web.wiring.yaml", PAGE)]);
    let outcome = run(&[&["audit"], arguments].concat(), folder.path());
    assert_eq!(outcome.status, status);
    assert!(outcome.stdout.starts_with(says), "{}", outcome.stdout);
}

#[rstest]
#[case::no_sign("unused-service", "write it as NAME=SEVERITY")]
#[case::no_rule("unused-servce=off", "there is no rule unused-servce; did you mean unused-service?")]
#[case::no_severity("unused-service=bad", "bad is none of error, warning, note, off")]
fn a_wrong_rule_on_the_command_line_is_said(#[case] argument: &str, #[case] message: &str) {
    let folder = folder(&[("web.wiring.yaml", PAGE)]);
    let outcome = run(&["audit", "--rule", argument], folder.path());
    assert_eq!(outcome.status, 2);
    assert!(outcome.stderr.contains(message), "{}", outcome.stderr);
}

#[test]
fn accepted_findings_fail_no_more_and_new_ones_do() {
    let ours = "# ours\n[rules]\nhidden-need = \"off\"   # for now\n";
    let folder = folder(&[("corvant.toml", ours), ("web.wiring.yaml", PAGE)]);
    let audit = ["audit", "--fail-on", "warning"];
    assert_eq!(run(&audit, folder.path()).status, 1);
    let dry = run(&["accept", "--dry-run", "--reason", "going"], folder.path());
    let allowance = "[[allow]]\nrule = \"unused-service\"\nsubject = \"web.old\"\nreason = \"going\"\n";
    assert_eq!((dry.status, dry.stdout.as_str()), (0, allowance));
    let accepted = run(&["accept", "--reason", "going", "--until", "2099-01-01"], folder.path());
    assert_eq!(
        accepted.stderr,
        "recorded 1 finding in ./corvant.toml: an audit now fails on new ones only\n"
    );
    let text = fs::read_to_string(folder.path().join("corvant.toml")).unwrap();
    assert_eq!(text, format!("{ours}\n{allowance}until = 2099-01-01\n"));
    assert_eq!(run(&audit, folder.path()).status, 0);
    assert_eq!(run(&["accept"], folder.path()).stderr, "nothing to accept\n");
    fs::write(folder.path().join("new.wiring.yaml"), "corvant: 1\nmodule: new\nservices: { new.x: {} }\n")
        .unwrap();
    assert_eq!(run(&audit, folder.path()).subjects_of_text(), ["unused-service: new.x"]);
}

#[test]
fn one_workspace_may_mix_all_carriers() {
    let json = r#"{ "corvant": 1, "module": "b", "services": { "b.json": { "needs": { "x": { "service": "c.tmol" } } } } }"#;
    let toml = "corvant = 1\nmodule = 'c'\n[services.'c.toml']\ntype = 'velmora.C'\nneeds.x.setting = 'c.size'\n[entries.e]\nneeds.x = { service = 'a.yaml' }\n";
    let files = [
        (
            "a.wiring.yaml",
            "corvant: 1\nmodule: a\nservices: { a.yaml: { needs: { x: { service: b.json } } } }\n",
        ),
        ("b.wiring.json", json),
        ("c.wiring.toml", toml),
    ];
    let folder = folder(&files);
    let outcome = run(&["audit", "--format", "json"], folder.path());
    let report = outcome.json();
    assert_eq!(report["summary"]["services"], 3);
    let places = report["findings"].as_array().unwrap().iter().map(|finding| {
        let place = &finding["places"][0];
        format!("{} {}:{}:{}", finding["subject"], place["file"], place["line"], place["column"])
            .replace('"', "")
    });
    assert_eq!(places.collect::<Vec<_>>(), ["c.tmol b.wiring.json:1:87", "c.size c.wiring.toml:5:19"]);
}

#[rstest]
#[case::manifest("manifest", "services")]
#[case::workspace("workspace", "lifetimes")]
fn schemas_are_printed(#[case] what: &str, #[case] field: &str) {
    let folder = folder(&[]);
    let schema = run(&["schema", what], folder.path()).json();
    assert!(schema["properties"][field].is_object());
}

#[rstest]
#[case::completions(&["completions", "bash"], "-F _clap_complete_corvant corvant")]
#[case::manual(&["manual"], ".TH corvant 1")]
fn shells_and_man_are_told_of_the_program(#[case] arguments: &[&str], #[case] says: &str) {
    let folder = folder(&[]);
    let outcome = run(arguments, folder.path());
    assert_eq!(outcome.status, 0);
    assert!(outcome.stdout.contains(says), "{:.400}", outcome.stdout);
}

#[test]
fn a_disabled_module_is_named_among_what_was_not_looked_at() {
    let files = [
        ("corvant.toml", "workspace.disabled = ['museum']\n"),
        ("museum.wiring.toml", "corvant = 1\nmodule = 'museum'\nservices.line.type = 'velmora.Line'\n"),
        ("web.wiring.yaml", PAGE),
    ];
    let folder = folder(&files);
    let outcome = run(&["audit", "--format", "json"], folder.path());
    let report = outcome.json();
    assert_eq!(report["summary"]["manifests"], 1);
    assert_eq!(report["summary"]["services"], 2);
    let spot = &report["blind_spots"][0];
    assert_eq!((&spot["kind"], &spot["subject"]), (&"disabled-module".into(), &"museum".into()));
    assert_eq!(spot["places"][0]["file"], "corvant.toml");
    assert_eq!(spot["places"][0]["column"], 23);
}

#[rstest]
#[case::broken("[rules\n", "the workspace file cannot be used: corvant.toml:1:7")]
#[case::no_list("allow = 1\n", "`allow` in the workspace file is no list")]
fn accept_writes_nothing_into_a_file_that_it_cannot_use(#[case] text: &str, #[case] message: &str) {
    let folder = folder(&[("corvant.toml", text), ("web.wiring.yaml", PAGE)]);
    let outcome = run(&["accept"], folder.path());
    assert_eq!(outcome.status, 2);
    assert!(outcome.stderr.contains(message), "{}", outcome.stderr);
    assert_eq!(fs::read_to_string(folder.path().join("corvant.toml")).unwrap(), text);
}

#[rstest]
#[case::errors("error", 0)]
#[case::warnings("warning", 1)]
#[case::notes("note", 2)]
fn accept_goes_down_to_a_severity(#[case] severity: &str, #[case] count: usize) {
    let text = "corvant: 1\nmodule: web\nservices: { web.page: { needs: { x: { service: web.part, via: look-up } } }, web.part: {}, web.old: {} }\n\
                entries: { page: { needs: { x: { service: web.page } } } }\n";
    let folder = folder(&[("web.wiring.yaml", text)]);
    let outcome = run(&["accept", "--dry-run", "--min-severity", severity], folder.path());
    assert_eq!(outcome.status, 0);
    assert_eq!(outcome.stdout.matches("[[allow]]").count(), count, "{outcome:#?}");
    assert!(!folder.path().join("corvant.toml").exists());
}

#[test]
fn a_stage_of_the_workspace_file_can_be_chosen() {
    let text = "corvant: 1\nmodule: web\nsettings: { web.host: { required: true } }\n\
                entries: { page: { needs: { x: { setting: web.host } } } }\n";
    let stages = "[stages.production]\nweb.host = 'velmora'\n[stages.drill]\n";
    let folder = folder(&[("corvant.toml", stages), ("web.wiring.yaml", text)]);
    assert_eq!(run(&["audit", "--stage", "production"], folder.path()).status, 0);
    let drill = run(&["audit", "--stage", "drill"], folder.path());
    assert_eq!(drill.status, 1);
    assert!(
        drill.stdout.contains("the setting web.host is declared and has no value in stage drill"),
        "{}",
        drill.stdout
    );
    let wrong = run(&["audit", "--stage", "dril"], folder.path());
    assert_eq!(wrong.status, 2);
    assert!(wrong.stderr.contains("the stages here are drill, production"), "{}", wrong.stderr);
}
