//! The text report, part by part.

use corvant_core::audit::{Options, audit};
use corvant_render::out::Out;
use corvant_render::text::{self, Extent, Layout};
use rstest::rstest;

fn rendered(files: &[(&str, &str)], layout: Layout) -> String {
    let wiring = corvant_testing::wiring(files.iter().copied());
    let report = audit(&wiring, &Options::default());
    let mut out = Vec::new();
    text::write(&report, &wiring, Extent::default(), layout, &mut Out::new(&mut out)).unwrap();
    String::from_utf8(out).unwrap()
}

const PLAIN: Layout = Layout { width: None, color: false };

fn lines_with<'text>(text: &'text str, part: &str) -> Vec<&'text str> {
    text.lines().filter(|line| line.contains(part)).collect()
}

/// The column of some text in a line, in characters.
fn column(line: &str, part: &str) -> usize {
    line[..line.find(part).unwrap_or_else(|| panic!("{part:?} is not in {line:?}"))].chars().count()
}

#[rstest]
#[case::plain("  e: { needs: { x: { service: web.gone } } }")]
#[case::other_scripts_before_it("  \"žluť\": { needs: { x: { service: web.gone } } }")]
#[case::tabs_before_it("  e: {\tneeds:\t{ x: { service: web.gone } } }")]
#[case::at_the_end_of_a_long_line(
    "  e: { needs: { aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa: { service: web.gone } } }"
)]
fn the_mark_stands_under_what_is_blamed(#[case] line: &str) {
    let text = format!("corvant: 1\nmodule: web\nentries:\n{line}\n");
    let out = rendered(&[("web.wiring.yaml", &text)], PLAIN);
    let excerpt = out.lines().position(|line| line.contains("┊") && line.contains("web.gone")).expect(&out);
    let lines: Vec<&str> = out.lines().collect();
    assert_eq!(column(lines[excerpt], "web.gone"), column(lines[excerpt + 1], "▔"), "{out}");
    assert_eq!(lines[excerpt + 1].matches('▔').count(), "web.gone".len());
}

#[test]
fn many_places_are_counted_not_listed() {
    let needs: String = (0..40).map(|number| format!("      s{number}: {{ service: web.gone }}\n")).collect();
    let text = format!("corvant: 1\nmodule: web\nentries:\n  e:\n    needs:\n{needs}");
    let out = rendered(&[("web.wiring.yaml", &text)], PLAIN);
    assert_eq!(lines_with(&out, "needed here by e").len(), 8);
    assert!(out.contains("… and 32 more places"), "{out}");
}

#[test]
fn it_says_when_it_fails_and_where_to_begin() {
    let text = "corvant: 1\nmodule: web\nservices:\n  web.map: { needs: { x: { service: web.gone } } }\nproviders:\n  web.start: { start: { needs: { m: { service: web.map } } } }\nentries:\n  one: { at: GET /one, needs: { m: { service: web.map } } }\n  two: { needs: { m: { service: web.map } } }\n";
    let out = rendered(&[("web.wiring.yaml", text)], PLAIN);
    let expected = "  fails   at start-up, in web.start; else at the first use of one (GET /one) and two; affects 1 service and 2 entries";
    assert_eq!(lines_with(&out, "fails   "), [expected]);
    assert!(
        out.contains("1 error; 1 stops the start-up\nbegin with web.gone: the application does not start"),
        "{out}"
    );
}

#[rstest]
#[case::one_service(
    "services:\n  a: { needs: { x: { service: gone } } }",
    "as soon as something uses it, which nothing does yet; affects 1 service"
)]
#[case::one_entry("entries:\n  a: { needs: { x: { service: gone } } }", "at the first use of a")]
fn a_fault_that_waits_says_for_what(#[case] body: &str, #[case] expected: &str) {
    let text = format!("corvant: 1\nmodule: web\n{body}\n");
    let out = rendered(&[("web.wiring.yaml", &text)], PLAIN);
    assert_eq!(lines_with(&out, "fails   "), [format!("  fails   {expected}")]);
}

#[test]
fn stages_are_named_where_it_does_not_hold_in_all() {
    let text = "corvant: 1\nmodule: web\nservices:\n  web.map: { stages: [drill, live] }\n  web.old: { stages: [drill] }\nentries:\n  e: { needs: { m: { service: web.map }, o: { service: web.old } } }\n";
    let out = rendered(&[("web.wiring.yaml", text)], PLAIN);
    assert_eq!(
        lines_with(&out, "stages  "),
        ["  stages  with none chosen", "  stages  live, and with none chosen"]
    );
}

#[test]
fn colour_marks_severities_and_nothing_is_lost_without_it() {
    let text = "corvant: 1\nmodule: web\nentries:\n  e: { needs: { x: { service: web.gone } } }\n";
    let files = [("web.wiring.yaml", text)];
    let colored = rendered(&files, Layout { color: true, ..PLAIN });
    let mut plain = String::new();
    let mut rest = colored.as_str();
    while let Some(start) = rest.find('\u{1b}') {
        plain.push_str(&rest[..start]);
        rest = &rest[start + rest[start..].find('m').unwrap() + 1..];
    }
    plain.push_str(rest);
    assert!(colored.contains("\u{1b}["));
    assert_eq!(plain, rendered(&files, PLAIN));
}

#[test]
fn blind_spots_are_listed_and_a_whole_view_is_said_to_be_one() {
    let good = "corvant: 1\nmodule: web\nservices:\n  web.a: {}\nentries:\n  e: { needs: { x: { service: web.a } } }\n";
    let whole = rendered(&[("web.wiring.yaml", good)], PLAIN);
    assert!(whole.ends_with("not looked at: nothing; every manifest below the root was read\n"), "{whole}");
    assert!(whole.starts_with("nothing is wrong\nlooked at 1 service in 1 manifest of 1 module"), "{whole}");
    let broken = rendered(&[("web.wiring.yaml", good), ("x.wiring.yaml", "a: [")], PLAIN);
    assert!(broken.contains("not looked at:\n  x.wiring.yaml: it could not be read"), "{broken}");
    let no_entry =
        rendered(&[("web.wiring.yaml", "corvant: 1\nmodule: web\nservices:\n  web.a: {}\n")], PLAIN);
    assert!(no_entry.contains("unused-service: no entry is defined"), "{no_entry}");
}
