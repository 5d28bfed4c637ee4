//! The rules' own texts: as a list, one by one, as JSON, and as pages of the documentation.

use crate::out::Out;
use crate::text::{BOLD, LABELS, Layout};
use corvant_core::finding::{Certainty, Family, RuleText};
use corvant_core::rules::TEXTS;
use std::io::{self, Write};

/// Writes all rules, a line each, by family.
pub fn list(layout: Layout, out: &mut Out<'_>) -> io::Result<()> {
    let longest = TEXTS.iter().map(|rule| rule.name.len()).max().unwrap_or(0);
    for (number, family) in families().into_iter().enumerate() {
        if number > 0 {
            writeln!(out)?;
        }
        layout.paint(out, BOLD, &family.word().replace('_', "-"))?;
        writeln!(out)?;
        for rule in TEXTS.iter().filter(|rule| rule.family == family) {
            let line = format!("  {:longest$}  {:7}  {}", rule.name, rule.severity.word(), rule.summary);
            let rest = " ".repeat(longest + 13);
            wrapped(layout, &line, &rest, out)?;
        }
    }
    Ok(())
}

/// Writes one rule whole: why it matters, what it does not report, and the example that shows it.
pub fn one(rule: &RuleText, layout: Layout, out: &mut Out<'_>) -> io::Result<()> {
    let family = rule.family.word().replace('_', "-");
    layout.paint(out, BOLD, rule.name)?;
    writeln!(out, " ({family}, {})", rule.severity.word())?;
    wrapped(layout, &format!("  {}", rule.summary), "  ", out)?;
    let texts = [
        ("why it matters", rule.why),
        ("what is not reported", rule.limits),
        ("what can be done", fixed(rule.fixes)),
    ];
    for (label, text) in texts {
        writeln!(out)?;
        layout.paint(out, LABELS, label)?;
        writeln!(out)?;
        wrapped(layout, &format!("  {text}"), "  ", out)?;
    }
    for (label, example) in [("this shows it", rule.faulty), ("this is the same, corrected", rule.corrected)]
    {
        writeln!(out)?;
        layout.paint(out, LABELS, label)?;
        writeln!(out)?;
        for line in example.trim_matches('\n').lines() {
            match line.strip_prefix("//- ") {
                Some(file) => writeln!(out, "  # {file}")?,
                None => writeln!(out, "  {line}")?,
            }
        }
    }
    Ok(())
}

/// The families that have rules, in the order of the rules.
pub fn families() -> Vec<Family> {
    let mut families: Vec<Family> = TEXTS.iter().map(|rule| rule.family).collect();
    families.dedup();
    families
}

/// The page of the documentation for a family, in Markdown.
pub fn page(family: Family) -> String {
    let title = family.word().replace('_', "-");
    let mut page =
        format!("# Rules: {title}\n\n<!-- made from the rules' own texts; see CONTRIBUTING.md -->\n");
    for rule in TEXTS.iter().filter(|rule| rule.family == family) {
        // One block a file: each is well-formed by itself.
        let example = |text: &str| {
            let files = text.trim_matches('\n').split("//- ").filter(|file| !file.is_empty());
            let blocks: Vec<String> =
                files.map(|file| format!("```yaml\n# {}\n```", file.trim_end())).collect();
            blocks.join("\n\n")
        };
        let heading = format!("## {}\n\n*{}*: {}.", rule.name, rule.severity.word(), rule.summary);
        let limits = format!("**Not reported.** {}", rule.limits);
        let (faulty, corrected) = (example(rule.faulty), example(rule.corrected));
        let fixes = format!("**Fixes.** {}", fixed(rule.fixes));
        let parts = [
            &heading,
            rule.why,
            &limits,
            &fixes,
            "This shows it:",
            &faulty,
            "The same, corrected:",
            &corrected,
        ];
        page = format!("{page}\n{}\n", parts.join("\n\n"));
    }
    page
}

/// The page of the documentation that says which rules know edits, in Markdown.
pub fn fixes_page() -> String {
    let mut page = String::from(
        "# Rules: what they can fix\n\n<!-- made from the rules' own texts; see CONTRIBUTING.md -->\n\n\
        `corvant fix` shows edits as a patch, and makes them with `--write`. *Certain* ones take the finding away, bring \
        no other, and mean what was evidently meant. *Likely* ones are one way of several, or change the meaning: they \
        are made with `--likely` too. What a rule can say for a finding depends on that finding: the table has the \
        surest it may know.\n",
    );
    let words = [
        (Certainty::Certain, "Certain", "made by `corvant fix --write`"),
        (Certainty::Likely, "Likely", "made by `corvant fix --write --likely`"),
        (Certainty::Advice, "Words only", "what to do depends on what is meant"),
    ];
    for (certainty, title, what) in words {
        let rows = TEXTS.iter().filter(|rule| rule.fixes == certainty).map(|rule| {
            let (family, name) = (rule.family.word().replace('_', "-"), rule.name);
            format!("| [{name}]({family}.md#{name}) | {family} | {} |\n", rule.summary)
        });
        let head = "| rule | family | what it finds |\n| --- | --- | --- |\n";
        page = format!("{page}\n## {title}: {what}\n\n{head}{}", rows.collect::<String>());
    }
    page
}

/// What can be done about a finding by itself.
fn fixed(certainty: Certainty) -> &'static str {
    match certainty {
        Certainty::Certain => "Where it is certain what was meant, `corvant fix --write` makes the edit.",
        Certainty::Likely => {
            "There is more than one way: `corvant fix --write --likely` makes the likeliest edit."
        }
        Certainty::Advice => "What to do depends on what is meant: the finding says it in words.",
    }
}

fn wrapped(layout: Layout, text: &str, rest: &str, out: &mut Out<'_>) -> io::Result<()> {
    let Some(width) = layout.width else { return writeln!(out, "{text}") };
    for line in textwrap::wrap(text, textwrap::Options::new(width).subsequent_indent(rest)) {
        writeln!(out, "{line}")?;
    }
    Ok(())
}
