//! Adding allowances to the text of a workspace file without touching the rest of it.

use toml_edit::{Document, DocumentMut, Item, Value, value};

/// A finding that is accepted from now on.
pub(crate) struct Allowance<'text> {
    pub(crate) rule: &'text str,
    pub(crate) subject: &'text str,
    pub(crate) reason: &'text str,
    /// The last day, as `YYYY-MM-DD`.
    pub(crate) until: Option<&'text str>,
}

impl Allowance<'_> {
    /// Its fields as TOML writes them.
    fn fields(&self) -> Vec<String> {
        let texts = [("rule", self.rule), ("subject", self.subject), ("reason", self.reason)];
        let texts = texts.map(|(name, text)| format!("{name} = {}", written(text)));
        // A day is a value of its own in TOML.
        texts.into_iter().chain(self.until.map(|day| format!("until = {day}"))).collect()
    }

    /// Whether one of the allowances that are there accepts the same on a day.
    fn is_in(&self, known: &[[Option<String>; 3]], today: &str) -> bool {
        known.iter().any(|[rule, subject, until]| {
            rule.as_deref() == Some(self.rule)
                && subject.as_deref() == Some(self.subject)
                && until.as_deref().is_none_or(|until| until >= today)
        })
    }
}

fn written(text: &str) -> String {
    value(text).into_value().map_or_else(|_| String::new(), |value| value.to_string().trim().to_owned())
}

/// The text with allowances added behind those that are there, in the form that they are in; `None`: all are there.
/// Every byte of the text stays as it is, and what is added ends its lines as the text does.
pub(crate) fn add(text: &str, allowances: &[Allowance<'_>], today: &str) -> Result<Option<String>, String> {
    let (mark, text) = text.strip_prefix('\u{feff}').map_or(("", text), |rest| ("\u{feff}", rest));
    let document = Document::parse(text).map_err(|error| format!("the workspace file: {error}"))?;
    let allow = document.get("allow");
    let known = known(allow);
    let new = allowances.iter().filter(|allowance| !allowance.is_in(&known, today));
    let new: Vec<Vec<String>> = new.map(Allowance::fields).collect();
    if new.is_empty() {
        return Ok(None);
    }
    let line = if text.contains("\r\n") { "\r\n" } else { "\n" };
    let added = match allow {
        None | Some(Item::None | Item::ArrayOfTables(_)) => as_tables(text, &new, line),
        Some(Item::Value(Value::Array(list))) => in_list(text, list, &new, line)?,
        _ => return Err("`allow` in the workspace file is no list".to_owned()),
    };
    added.parse::<DocumentMut>().map_err(|error| format!("nothing was written: {error}"))?;
    Ok(Some(format!("{mark}{added}")))
}

/// Rule, subject and last day of the allowances that are there.
fn known(allow: Option<&Item>) -> Vec<[Option<String>; 3]> {
    let one = |get: &dyn Fn(&str) -> Option<Value>| {
        ["rule", "subject", "until"].map(|field| {
            let value = get(field)?;
            value.as_str().map(str::to_owned).or_else(|| value.as_datetime().map(ToString::to_string))
        })
    };
    match allow {
        Some(Item::ArrayOfTables(tables)) => {
            tables.iter().map(|table| one(&|field| table.get(field)?.as_value().cloned())).collect()
        }
        Some(Item::Value(Value::Array(list))) => {
            let tables = list.iter().filter_map(Value::as_inline_table);
            tables.map(|table| one(&|field| table.get(field).cloned())).collect()
        }
        _ => Vec::new(),
    }
}

/// A text with tables at its end, where they belong to no other.
fn as_tables(text: &str, new: &[Vec<String>], line: &str) -> String {
    let mut added = text.to_owned();
    if !text.is_empty() && !text.ends_with('\n') {
        added += line;
    }
    for fields in new {
        if !added.is_empty() {
            added += line;
        }
        added += &["[[allow]]", line, &fields.join(line), line].concat();
    }
    added
}

/// A text with lines at the end of a list, behind the comment that may stand there.
fn in_list(text: &str, list: &toml_edit::Array, new: &[Vec<String>], line: &str) -> Result<String, String> {
    let unknown = || "`allow` in the workspace file has no place".to_owned();
    let close = list.span().and_then(|span| span.end.checked_sub(1)).ok_or_else(unknown)?;
    let behind_last = list.iter().last().and_then(Value::span).map_or(close, |span| span.end);
    let comma = if list.is_empty() || list.trailing_comma() { "" } else { "," };
    let gap = text.get(behind_last..close).ok_or_else(unknown)?.trim_end_matches([' ', '\t']);
    let (at, before) = if gap.ends_with('\n') { (behind_last + gap.len(), "") } else { (close, line) };
    let lines: String = new.iter().map(|fields| format!("  {{ {} }},{line}", fields.join(", "))).collect();
    Ok([&text[..behind_last], comma, &text[behind_last..at], before, &lines, &text[at..]].concat())
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    const NEW: &str =
        "[[allow]]\nrule = \"unused-tag\"\nsubject = \"a\"\nreason = \"later\"\nuntil = 2027-04-30\n";
    const INLINE: &str =
        "  { rule = \"unused-tag\", subject = \"a\", reason = \"later\", until = 2027-04-30 },\n";
    const TODAY: &str = "2027-04-01";

    fn allowance() -> Allowance<'static> {
        Allowance { rule: "unused-tag", subject: "a", reason: "later", until: Some("2027-04-30") }
    }

    #[rstest]
    #[case::nothing_there("", "{NEW}")]
    #[case::a_header_comment_stays_first("# ours\n# strict\n", "# ours\n# strict\n\n{NEW}")]
    #[case::no_line_end("a.b = 1", "a.b = 1\n\n{NEW}")]
    #[case::comments_stay(
        "# ours\n[rules]  # strict\nunused-tag=\"error\"\n",
        "# ours\n[rules]  # strict\nunused-tag=\"error\"\n\n{NEW}"
    )]
    #[case::behind_the_others(
        "[[allow]]\nrule = 'x' # why\nsubject = 'y'\n\n[rules]\n",
        "[[allow]]\nrule = 'x' # why\nsubject = 'y'\n\n[rules]\n\n{NEW}"
    )]
    #[case::in_a_list(
        "allow = [\n  { rule = 'x', subject = 'y' }, # why\n]\nroster = []\n",
        "allow = [\n  { rule = 'x', subject = 'y' }, # why\n{INLINE}]\nroster = []\n"
    )]
    #[case::in_a_list_on_one_line(
        "allow = [{ rule = 'x', subject = 'y' }]\n",
        "allow = [{ rule = 'x', subject = 'y' },\n{INLINE}]\n"
    )]
    #[case::a_comment_behind_the_last(
        "allow = [\n  { rule = 'x', subject = 'y' } # no comma\n  ]\n",
        "allow = [\n  { rule = 'x', subject = 'y' }, # no comma\n{INLINE}  ]\n"
    )]
    #[case::in_an_empty_list("allow = []\n", "allow = [\n{INLINE}]\n")]
    fn allowances_are_added_and_every_byte_stays(#[case] text: &str, #[case] expected: &str) {
        let expected = expected.replace("{NEW}", NEW).replace("{INLINE}", INLINE);
        assert_eq!(add(text, &[allowance()], TODAY).unwrap().unwrap(), expected);
        // Line ends and a byte-order mark are the user's.
        let dos = |text: &str| format!("\u{feff}{}", text.replace('\n', "\r\n"));
        if text.contains('\n') {
            assert_eq!(add(&dos(text), &[allowance()], TODAY).unwrap().unwrap(), dos(&expected));
        }
    }

    #[rstest]
    #[case::without_end("[[allow]]\nrule = 'unused-tag'\nsubject = 'a'\n", false)]
    #[case::not_ended_yet("allow = [{ rule = 'unused-tag', subject = 'a', until = 2027-04-01 }]", false)]
    #[case::ended("allow = [{ rule = 'unused-tag', subject = 'a', until = 2027-03-31 }]", true)]
    fn what_is_accepted_already_is_not_added(#[case] text: &str, #[case] is_added: bool) {
        assert_eq!(add(text, &[allowance()], TODAY).unwrap().is_some(), is_added);
    }

    #[test]
    fn what_is_no_list_is_left_alone() {
        assert!(add("allow = 1\n", &[allowance()], TODAY).is_err());
    }
}
