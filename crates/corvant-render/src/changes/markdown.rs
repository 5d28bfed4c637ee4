//! Changes as Markdown: a comment on a change.

use super::{Compared, EDITS, NO_EDIT, words};
use crate::markdown::{Page, block, code, plain, short, whole};
use crate::out::Out;
use std::fmt::Write as _;
use std::io::{self, Write};

/// New findings that are shown whole.
const WORST: usize = 10;

/// Writes changes as Markdown that fits into what hosts take.
pub fn write(compared: Compared<'_>, is_failing: bool, out: &mut Out<'_>) -> io::Result<()> {
    let Compared { old, new, comparison, .. } = compared;
    let changes = &comparison.findings;
    let verdict = match (is_failing, comparison.is_empty()) {
        (true, _) => "This change brings faults into the wiring",
        (false, true) => "This change leaves the wiring as it is",
        (false, false) => "This change to the wiring can be deployed",
    };
    let mut page = Page::new(format!(
        "## {verdict}\n\n{}. {} against {}.\n",
        plain(&words::findings(&compared)),
        code(&short(new.name)),
        code(&short(old.name))
    ));
    let mut left_out = 0;
    let fresh = changes.new.iter().chain(&changes.worse);
    for (number, change) in fresh.enumerate() {
        let fits = number < WORST && page.add(&whole(&new.report.findings[change.number], new.wiring));
        left_out += usize::from(!fits);
    }
    let gone = changes.gone.iter().map(|change| {
        let finding = &old.report.findings[change.number];
        format!("- {} {} {}\n", finding.severity.word(), finding.rule.name, code(&short(&finding.subject)))
    });
    left_out += page.folded("Findings that are gone", gone);
    let effects = comparison.effects.iter();
    let effects =
        effects.map(|effect| format!("- {}\n", plain(&short(&words::effect(effect, compared.with_values)))));
    left_out += page.folded("What follows", effects);
    let definitions = comparison.definitions.iter().map(|change| {
        let places = words::places(&compared, change.before.as_ref(), change.after.as_ref());
        let mut lines = format!(
            "- {} {} {}\n",
            words::turn(change),
            plain(&short(&words::definition(change))),
            code(&short(&places))
        );
        for part in words::parts(change) {
            let _ = writeln!(lines, "  - {}", plain(&short(&words::part(part, compared.with_values))));
        }
        lines
    });
    left_out += page.folded("Definitions that changed", definitions);
    let unseen = comparison.unseen.iter();
    let unseen = unseen.map(|one| format!("- {}\n", plain(&short(&words::unseen(one, &compared)))));
    left_out += page.folded("What was not looked at", unseen);
    if !compared.supposed.patch.is_empty() {
        // Half a patch is none.
        let patch = std::iter::once(block(compared.supposed.patch, "diff"));
        left_out += page.folded(EDITS, patch);
    }
    let without = compared.supposed.without_edits();
    let without = without.map(|asked| format!("- {}: {}\n", code(&short(asked)), plain(NO_EDIT)));
    left_out += page.folded("Without an edit", without);
    page.tell_left_out(left_out, "line", "lines");
    out.write_all(page.text.as_bytes())
}
