//! What kind of value a text without quotes is, as YAML 1.2's core schema says.

use super::NodeKind;

/// The kind of a value without quotes.
pub(crate) fn kind_of_plain(text: &str) -> NodeKind {
    match text.as_bytes().first() {
        Some(b'0'..=b'9' | b'-' | b'+' | b'.') => number_kind(text),
        _ => match text {
            "" | "~" | "null" | "Null" | "NULL" => NodeKind::Null,
            "true" | "True" | "TRUE" | "false" | "False" | "FALSE" => NodeKind::Boolean,
            _ => NodeKind::Text,
        },
    }
}

fn number_kind(text: &str) -> NodeKind {
    let is = |digits: &str, test: fn(&u8) -> bool| !digits.is_empty() && digits.as_bytes().iter().all(test);
    if let Some(digits) = text.strip_prefix("0o") {
        return if is(digits, |digit| (b'0'..=b'7').contains(digit)) {
            NodeKind::Integer
        } else {
            NodeKind::Text
        };
    }
    if let Some(digits) = text.strip_prefix("0x") {
        return if is(digits, u8::is_ascii_hexdigit) { NodeKind::Integer } else { NodeKind::Text };
    }
    let unsigned = text.strip_prefix(['-', '+']).unwrap_or(text);
    if is(unsigned, u8::is_ascii_digit) {
        return NodeKind::Integer;
    }
    if matches!(unsigned, ".inf" | ".Inf" | ".INF") || matches!(text, ".nan" | ".NaN" | ".NAN") {
        return NodeKind::Number;
    }
    let (mantissa, exponent) =
        unsigned.split_once(['e', 'E']).map_or((unsigned, None), |(mantissa, rest)| (mantissa, Some(rest)));
    let (whole, fraction) = mantissa.split_once('.').unwrap_or((mantissa, ""));
    let digits = |part: &str| part.bytes().all(|byte| byte.is_ascii_digit());
    let mantissa_fits = digits(whole) && digits(fraction) && !(whole.is_empty() && fraction.is_empty());
    let exponent_fits =
        exponent.is_none_or(|rest| is(rest.strip_prefix(['-', '+']).unwrap_or(rest), u8::is_ascii_digit));
    if mantissa_fits && exponent_fits { NodeKind::Number } else { NodeKind::Text }
}
