//! `missing-method`: a setter or factory method that the type does not have.

use corvant_testing::messages;
use rstest::rstest;

#[rstest]
#[case::there("A.java", "package v; class Gate { void setYard(Yard y) {} }", "v.Gate", "setYard", None)]
#[case::inherited(
    "A.java",
    "package v; class Door { void setYard(Yard y) {} } class Gate extends Door {}",
    "v.Gate",
    "setYard",
    None
)]
#[case::misspelt(
    "A.java",
    "package v; class Gate { void setYard(Yard y) {} }",
    "v.Gate",
    "setYrad",
    Some("write setYard (src/A.java:1)")
)]
#[case::none("A.java", "package v; class Gate {}", "v.Gate", "setYard", Some("declare it"))]
#[case::inherited_from_elsewhere(
    "A.java",
    "package v; class Gate extends far.Door {}",
    "v.Gate",
    "setYard",
    None
)]
#[case::any_name(
    "a.php",
    "<?php namespace V; class Gate { function __call($name, $all) {} }",
    "V\\Gate",
    "setYard",
    None
)]
#[case::letter_case_that_does_not_matter(
    "a.php",
    "<?php namespace V; class Gate { function setyard($y) {} }",
    "V\\Gate",
    "setYard",
    None
)]
#[case::a_trait(
    "a.php",
    "<?php namespace V; trait Yards { function setYard($y) {} } class Gate { use Yards; }",
    "V\\Gate",
    "setYard",
    None
)]
#[case::not_in_python(
    "a.py",
    "class Gate:\n    def set_yard(self, y): pass\n",
    "a.Gate",
    "set_yrad",
    Some("write set_yard")
)]
fn setters(
    #[case] file: &str,
    #[case] code: &str,
    #[case] type_name: &str,
    #[case] method: &str,
    #[case] expected: Option<&str>,
) {
    let found = messages(&format!(
        "//- corvant.toml\n[[types]]\nfiles = [\"src/*\"]\n//- src/{file}\n{code}\n//- a.wiring.yaml\ncorvant: 1\nmodule: a\n\
         services: {{ yard: {{}}, gate: {{ type: '{type_name}', needs: {{ yard: {{ service: yard, via: setter, method: {method} }} }} }} }}\n\
         entries: {{ open: {{ needs: {{ gate: {{ service: gate }} }} }} }}\n"
    ));
    assert_eq!(found.len(), usize::from(expected.is_some()), "{found:#?}");
    if let Some(expected) = expected {
        assert_eq!(
            (found[0].rule, found[0].subject.as_str()),
            ("missing-method", format!("{type_name}.{method}").as_str())
        );
        assert!(found[0].text.contains(expected), "{found:#?}");
    }
}

/// One method that several services ask for is one finding; a factory's is on the factory's type.
#[test]
fn factories() {
    let found = messages(
        "//- corvant.toml\n[[types]]\nfiles = [\"src/*\"]\n//- src/A.java\npackage v; class Maker { Gate make() { return null; } }\n\
         //- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices:\n  maker: { type: v.Maker }\n  one: { built-by: { service: maker, method: makee } }\n  two: { built-by: { service: maker, method: makee } }\n  three: { built-by: { service: maker, method: make } }\n\
         entries: { open: { needs: { a: { service: one }, b: { service: two }, c: { service: three } } } }\n",
    );
    assert_eq!(found.len(), 1, "{found:#?}");
    assert!(
        found[0].subject == "v.Maker.makee" && found[0].text.contains("is to build one\nis to build two"),
        "{found:#?}"
    );
}
