//! `abstract-type`: a service is built from what cannot be built.

use corvant_testing::messages;
use rstest::rstest;

/// What of a language can be built, and what a definition may say all the same.
#[rstest]
#[case::interface("A.java", "package v; interface Gate {}", "type: v.Gate", Some("which is an interface"))]
#[case::abstract_class(
    "A.java",
    "package v; abstract class Gate {}",
    "type: v.Gate",
    Some("which is abstract")
)]
#[case::class("A.java", "package v; class Gate {}", "type: v.Gate", None)]
#[case::record("A.java", "package v; record Gate(int x) {}", "type: v.Gate", None)]
#[case::sealed("A.kt", "package v\nsealed class Gate", "type: v.Gate", Some("which is abstract"))]
#[case::object("A.kt", "package v\nobject Gate", "type: v.Gate", None)]
#[case::static_class("A.cs", "namespace V; static class Gate {}", "type: V.Gate", Some("which is abstract"))]
#[case::a_trait("a.php", "<?php namespace V; trait Gate {}", "type: V\\Gate", Some("which is a trait"))]
#[case::abstract_methods(
    "a.py",
    "import abc\nclass Gate(abc.ABC):\n    @abc.abstractmethod\n    def open(self): ...\n",
    "type: a.Gate",
    Some("which is abstract")
)]
#[case::in_scripts("a.ts", "export abstract class Gate {}", "type: 'src/a#Gate'", Some("which is abstract"))]
#[case::what_a_factory_returns(
    "A.java",
    "package v; interface Gate {}",
    "type: v.Gate, built-by: { service: maker }",
    None
)]
#[case::a_template("A.java", "package v; interface Gate {}", "type: v.Gate, template: true", None)]
fn what_can_be_built(
    #[case] file: &str,
    #[case] code: &str,
    #[case] gate: &str,
    #[case] expected: Option<&str>,
) {
    let found = messages(&format!(
        "//- corvant.toml\n[[types]]\nfiles = [\"src/*\"]\n//- src/{file}\n{code}\n//- a.wiring.yaml\ncorvant: 1\nmodule: a\n\
         services: {{ maker: {{ needs: {{}} }}, gate: {{ {gate} }}, door: {{ like: gate, type: none }} }}\n\
         entries: {{ open: {{ needs: {{ gate: {{ service: door }}, other: {{ service: gate, optional: true }}, maker: {{ service: maker }} }} }} }}\n"
    ));
    let told: Vec<_> = found.iter().filter(|found| found.rule == "abstract-type").collect();
    assert_eq!(told.len(), usize::from(expected.is_some()), "{found:#?}");
    assert!(told.iter().all(|found| found.text.contains(expected.unwrap_or_default())), "{found:#?}");
}

#[test]
fn types_that_can_be_built_in_its_place_are_named() {
    let found = messages(
        "//- corvant.toml\n[[types]]\nfiles = [\"src/*\"]\n//- src/a.php\n<?php namespace V; interface Gate {} abstract class Half implements Gate {} class Iron extends Half {} class Wood implements Gate {}\n\
         //- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices: { gate: { type: '\\V\\Gate' } }\n\
         entries: { open: { needs: { gate: { service: gate } } } }\n",
    );
    assert!(
        found[0].text.contains("write \\V\\Iron (src/a.php:1)\nwrite \\V\\Wood (src/a.php:1)"),
        "{found:#?}"
    );
}
