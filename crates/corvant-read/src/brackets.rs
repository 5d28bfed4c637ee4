//! A hint for broken files: the bracket that was never closed is seldom where reading stops.

/// The byte offset of the innermost bracket that is still open at `end`, outside quotes and comments.
///
/// This is a hint, not a parser: it knows the quotes and comments of YAML, and a quote only where a value can
/// begin.
pub(crate) fn innermost_open(text: &str, end: usize) -> Option<usize> {
    let bytes = &text.as_bytes()[..end.min(text.len())];
    let mut open = Vec::new();
    let mut quote = None;
    let mut before = b' ';
    let mut at = 0;
    while at < bytes.len() {
        let byte = bytes[at];
        let begins_a_value = before.is_ascii_whitespace() || matches!(before, b'[' | b'{' | b',' | b':');
        match (quote, byte) {
            (Some(b'"'), b'\\') => at += 1,
            (Some(mark), _) if byte == mark => quote = None,
            (None, b'"' | b'\'') if begins_a_value => quote = Some(byte),
            (None, b'#') if before.is_ascii_whitespace() => {
                at += bytes[at..].iter().position(|&byte| byte == b'\n').unwrap_or(bytes.len());
                before = b'\n';
                continue;
            }
            (None, b'[' | b'{') => open.push(at),
            (None, b']' | b'}') => {
                open.pop();
            }
            _ => {}
        }
        before = byte;
        at += 1;
    }
    open.pop()
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::open("a: { b: 1\nc: 2", Some(3))]
    #[case::inner("a: { b: [1, 2\nc: 2", Some(8))]
    #[case::closed("a: { b: [1, 2] }\nc: ]", None)]
    #[case::in_quotes("a: { b: '[', c: \"\\\"[\" }", None)]
    #[case::in_a_comment("a: 1 # [\nb: 2", None)]
    #[case::an_apostrophe_is_no_quote("a: don't [\n'", Some(9))]
    fn the_innermost_open_bracket_is_found(#[case] text: &str, #[case] expected: Option<usize>) {
        assert_eq!(innermost_open(text, text.len()), expected);
    }
}
