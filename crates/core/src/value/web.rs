//! Web addresses (RFC 3986, http and https alone) and UUIDs (RFC 9562), judged as they stand: nothing is repaired.

/// Whether a text is an absolute address of the web.
///
/// ```
/// use tidy_gate_core::value::web::is_url;
/// assert!(is_url("https://trees.example/plans?year=2026"));
/// assert!(!is_url("trees.example"));
/// ```
#[must_use]
pub fn is_url(text: &str) -> bool {
    let lower = text.get(..8.min(text.len())).unwrap_or_default().to_ascii_lowercase();
    let Some(rest) = ["https://", "http://"]
        .iter()
        .find_map(|scheme| lower.starts_with(scheme).then(|| text.get(scheme.len()..)).flatten())
    else {
        return false;
    };
    let end = rest.find(['/', '?', '#']).unwrap_or(rest.len());
    let (authority, path) = rest.split_at(end);
    let host = authority.rsplit_once('@').map_or(authority, |(_, host)| host);
    let (host, port) = match host.rsplit_once(':') {
        Some((host, port)) if !port.ends_with(']') => (host, Some(port)),
        _ => (host, None),
    };
    let is_port = port.is_none_or(|port| port.parse::<u16>().is_ok_and(|port| port > 0));
    let is_odd = |c: char| c.is_whitespace() || c.is_control() || "<>\"{}|\\^`".contains(c);
    is_host(host) && is_port && !authority.chars().any(is_odd) && !path.chars().any(is_odd) && percents(path)
}

/// Whether the bytes are an address of the common shape: `http` or `https`, a host of labels of letters, digits and inner
/// hyphens, perhaps a path of unescaped ASCII. False says nothing: [`is_url`] decides.
#[must_use]
pub fn is_common_url(raw: &[u8]) -> bool {
    let rest = raw.strip_prefix(b"https://").or_else(|| raw.strip_prefix(b"http://"));
    let Some(rest) = rest else { return false };
    let (mut label, mut dots, mut letters, mut before) = (0, 0, 0, b'.');
    let mut path = rest.len();
    for (at, &byte) in rest.iter().enumerate() {
        match byte {
            b'a'..=b'z' | b'A'..=b'Z' | b'0'..=b'9' => {
                letters += u32::from(byte.is_ascii_alphabetic());
                label += 1;
            }
            b'-' if before != b'.' => label += 1,
            b'.' if before != b'.' && before != b'-' && label <= 63 => (label, dots) = (0, dots + 1),
            b'/' | b'?' | b'#' => {
                path = at;
                break;
            }
            _ => return false,
        }
        before = byte;
    }
    let is_host = dots > 0 && letters > 0 && (1..=63).contains(&label) && before != b'-';
    is_host
        && rest.get(path..).unwrap_or_default().iter().fold(true, |is_path, byte| is_path & in_path(*byte))
}

/// Whether a byte may stand in a path as it is.
#[expect(clippy::indexing_slicing, reason = "a byte indexes 256 places")]
fn in_path(byte: u8) -> bool {
    const IN_PATH: [bool; 256] = {
        let mut path = [false; 256];
        let mut byte = 0x21_u8;
        while byte < 0x7F {
            path[byte as usize] =
                !matches!(byte, b'<' | b'>' | b'"' | b'{' | b'}' | b'|' | b'\\' | b'^' | b'`' | b'%');
            byte += 1;
        }
        path
    };
    IN_PATH[usize::from(byte)]
}

fn is_host(host: &str) -> bool {
    if let Some(inner) = host.strip_prefix('[').and_then(|host| host.strip_suffix(']')) {
        return inner.parse::<core::net::Ipv6Addr>().is_ok();
    }
    let is_label = |label: &str| {
        !label.is_empty()
            && label.chars().count() <= 63
            && label.chars().all(|c| c.is_alphanumeric() || c == '-')
            && !label.starts_with('-')
            && !label.ends_with('-')
    };
    let host = host.strip_suffix('.').unwrap_or(host);
    let is_number = host.split('.').all(|label| label.bytes().all(|b| b.is_ascii_digit()));
    let fits =
        if is_number { host.parse::<core::net::Ipv4Addr>().is_ok() } else { host.split('.').all(is_label) };
    fits && (host.contains('.') || host.eq_ignore_ascii_case("localhost"))
}

/// Whether every percent sign has its two digits.
fn percents(path: &str) -> bool {
    path.split('%').skip(1).all(|rest| rest.bytes().take(2).filter(u8::is_ascii_hexdigit).count() == 2)
}

/// Whether a text is a UUID in the form with hyphens, in any case.
#[must_use]
pub fn is_uuid(text: &str) -> bool {
    text.len() == 36
        && text.bytes().enumerate().all(|(at, byte)| match at {
            8 | 13 | 18 | 23 => byte == b'-',
            _ => byte.is_ascii_hexdigit(),
        })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn what_is_common_is_an_address(text in "https?://[a1.-]{0,6}(example)?[.]{0,2}[a-z0-9-]{0,4}[/?#:@%a ]{0,4}") {
            prop_assert!(!is_common_url(text.as_bytes()) || is_url(&text), "{}", text);
        }
    }

    #[test]
    fn addresses_are_judged_as_they_stand() {
        for (text, wanted) in [
            ("https://trees.harrowmere.example/tag?no=1#top", true),
            ("HTTP://example.org:8080", true),
            ("https://user@example.org/a%20b", true),
            ("https://bücher.example/", true),
            ("http://192.0.2.7/x", true),
            ("http://[2001:db8::1]/", true),
            ("www.example.org", false),
            ("ftp://example.org", false),
            ("javascript:alert(1)", false),
            ("https://example", false),
            ("https://exa mple.org", false),
            ("https://example.org/a b", false),
            ("https://-x.example", false),
            ("https://example.org:99999", false),
            ("https://999.1.1.1/", false),
            ("https://example.org/100%", false),
            ("https://", false),
        ] {
            assert_eq!(is_url(text), wanted, "{text}");
            assert!(wanted || !is_common_url(text.as_bytes()), "{text}");
        }
        assert!(is_common_url(b"https://trees.harrowmere.example/tag?no=1#top"));
        assert!(is_uuid("123E4567-e89b-12d3-a456-426614174000"));
        assert!(!is_uuid("{123e4567-e89b-12d3-a456-426614174000}"));
        assert!(!is_uuid("123e4567e89b12d3a456426614174000"));
    }
}
