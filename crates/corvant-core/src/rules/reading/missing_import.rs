//! `missing-import`: a file that another names and that is not there.

use crate::facts::TroubleKind;
use crate::finding::{Certainty, Family, RuleText, Scope, Severity};
use crate::rules::Rule;
use crate::views::{Check, FilesView, Sink};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "missing-import",
        family: Family::Reading,
        severity: Severity::Error,
        summary: "a file that another names and that is not there",
        why: "All that it was meant to bring is missing: the application fails when it loads the file that names it, or \
          starts without what stands in there.",
        limits: "Custom readers say which values are names of files (`what = \"import\"`). A path is taken from the folder of \
             the file that names it, or from the root of the workspace if it begins with a slash; one with a star, and \
             one that leads out of the workspace, are not looked for.",
        fixes: Certainty::Likely,
        faulty: r#"
//- corvant.toml
[[reader]]
name = "lines"
files = ["*.yaml"]
syntax = "yaml"
module = "lines"
may-be-empty = true
[[reader.take]]
what = "import"
each = "$.with[*]"
path = "$"
//- lines.yaml
with: [tracks.yaml, stop.yaml]
//- tracks.yaml
about: Where the tracks are
//- stops.yaml
about: Where the trams stop
"#,
        corrected: r#"
//- corvant.toml
[[reader]]
name = "lines"
files = ["*.yaml"]
syntax = "yaml"
module = "lines"
may-be-empty = true
[[reader.take]]
what = "import"
each = "$.with[*]"
path = "$"
//- lines.yaml
with: [tracks.yaml, stops.yaml]
//- tracks.yaml
about: Where the tracks are
//- stops.yaml
about: Where the trams stop
"#,
        scope: Scope::Files,
    },
    check: Check::Files(check),
};

fn check(view: &FilesView<'_>, sink: &mut Sink) {
    view.report_troubles(&RULE.text, TroubleKind::MissingImport, sink);
}
