//! Adding allowances to the text of a workspace file without touching the rest of it.

use toml_edit::{ArrayOfTables, DocumentMut, InlineTable, Item, Table, Value, value};

/// A finding that is accepted from now on.
pub(crate) struct Allowance<'text> {
    pub(crate) rule: &'text str,
    pub(crate) subject: &'text str,
    pub(crate) reason: &'text str,
    /// The last day, as `YYYY-MM-DD`.
    pub(crate) until: Option<&'text str>,
}

impl Allowance<'_> {
    fn fields(&self) -> impl Iterator<Item = (&'static str, Item)> {
        let texts = [("rule", self.rule), ("subject", self.subject), ("reason", self.reason)];
        let texts = texts.map(|(name, text)| (name, value(text)));
        // A day is a value of its own in TOML.
        let until =
            self.until.map(|day| ("until", day.parse::<Value>().map_or_else(|_| value(day), Item::Value)));
        texts.into_iter().chain(until)
    }

    fn table(&self) -> Table {
        let mut table = Table::new();
        for (name, item) in self.fields() {
            table.insert(name, item);
        }
        table
    }
}

/// The text with allowances added: behind those that are there, in the form that they are in.
pub(crate) fn add(text: &str, allowances: &[Allowance<'_>]) -> Result<String, String> {
    let mut document: DocumentMut = text.parse().map_err(|error| format!("the workspace file: {error}"))?;
    let allow = document.entry("allow").or_insert_with(|| Item::ArrayOfTables(ArrayOfTables::new()));
    match allow {
        Item::ArrayOfTables(tables) => allowances.iter().for_each(|allowance| tables.push(allowance.table())),
        Item::Value(Value::Array(list)) => {
            // A comment behind the last one stays where it is.
            let behind = list.trailing().as_str().unwrap_or("").trim_end().to_owned();
            for (number, allowance) in allowances.iter().enumerate() {
                let fields =
                    allowance.fields().filter_map(|(name, item)| Some((name, item.into_value().ok()?)));
                let mut inline = Value::InlineTable(fields.collect::<InlineTable>());
                inline
                    .decor_mut()
                    .set_prefix(format!("{}\n  ", if number == 0 { behind.as_str() } else { "" }));
                list.push_formatted(inline);
            }
            list.set_trailing_comma(true);
            list.set_trailing("\n");
        }
        _ => return Err("`allow` in the workspace file is no list".to_owned()),
    }
    Ok(document.to_string())
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    const NEW: &str =
        "[[allow]]\nrule = \"unused-tag\"\nsubject = \"a\"\nreason = \"later\"\nuntil = 2027-04-30\n";

    #[rstest]
    #[case::nothing_there("", NEW)]
    #[case::comments_stay(
        "# ours\n[rules]  # strict\nunused-tag=\"error\"\n",
        "# ours\n[rules]  # strict\nunused-tag=\"error\"\n\n{NEW}"
    )]
    #[case::behind_the_others(
        "[[allow]]\nrule = 'x' # why\nsubject = 'y'\n",
        "[[allow]]\nrule = 'x' # why\nsubject = 'y'\n\n{NEW}"
    )]
    #[case::before_what_follows(
        "[[allow]]\nrule = 'x'\nsubject = 'y'\n\n[rules]\n",
        "[[allow]]\nrule = 'x'\nsubject = 'y'\n\n{NEW}\n[rules]\n"
    )]
    #[case::in_a_list(
        "allow = [\n  { rule = 'x', subject = 'y' }, # why\n]\nroster = []\n",
        "allow = [\n  { rule = 'x', subject = 'y' }, # why\n  { rule = \"unused-tag\", subject = \"a\", reason = \"later\", until = 2027-04-30 },\n]\nroster = []\n"
    )]
    fn allowances_are_added_and_the_rest_stays(#[case] text: &str, #[case] expected: &str) {
        let allowance =
            Allowance { rule: "unused-tag", subject: "a", reason: "later", until: Some("2027-04-30") };
        assert_eq!(add(text, &[allowance]).unwrap(), expected.replace("{NEW}", NEW));
    }

    #[test]
    fn what_is_no_list_is_left_alone() {
        let allowance = Allowance { rule: "unused-tag", subject: "a", reason: "", until: None };
        assert!(add("allow = 1\n", &[allowance]).is_err());
    }
}
