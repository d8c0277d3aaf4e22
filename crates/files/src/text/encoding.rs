//! Which encoding a text is in: by its byte-order mark, by being UTF-8, by the zeros of UTF-16, or by what fits
//! best (WHATWG Encoding Standard).

use encoding_rs::{Encoding, UTF_8, UTF_16BE, UTF_16LE};

/// So many bytes decide which encoding fits best.
const MOST_FITTED: usize = 48 << 10;

/// An encoding and why it was chosen.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Chosen {
    pub(crate) encoding: &'static Encoding,
    /// The length of the byte-order mark that the text begins with.
    pub(crate) bom: usize,
    pub(crate) evidence: String,
    pub(crate) how: How,
    /// Whether only a few sequences of bytes speak for it.
    pub(crate) is_doubtful: bool,
}

/// So few sequences of bytes leave an encoding in doubt.
const FEW: usize = 20;

impl Chosen {
    fn new(encoding: &'static Encoding, bom: usize, evidence: impl Into<String>, how: How) -> Self {
        Self { encoding, bom, evidence: evidence.into(), how, is_doubtful: false }
    }
}

/// How an encoding was chosen.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum How {
    /// It was stated.
    Stated,
    /// The bytes prove it.
    Certain,
    /// The bytes looked at are the same in many encodings.
    Assumed,
    /// It fits best.
    Guessed,
}

/// Chooses the encoding of a text that begins with these bytes (all of it when `is_whole`).
pub(crate) fn choose(
    head: &[u8],
    is_whole: bool,
    stated: Option<&'static Encoding>,
    turned_to: Option<&'static Encoding>,
) -> Chosen {
    // A mark says more than whoever states something else.
    if let Some((encoding, bom)) = Encoding::for_bom(head) {
        let other = stated.filter(|stated| *stated != encoding && !is_kin(stated, encoding));
        let evidence = match other {
            Some(other) => {
                format!("the file begins with its byte-order mark, although {} is stated", other.name())
            }
            None => "the file begins with its byte-order mark".to_owned(),
        };
        let how = match (other, stated) {
            (Some(_), _) => How::Guessed,
            (None, Some(_)) => How::Stated,
            (None, None) => How::Certain,
        };
        return Chosen::new(encoding, bom, evidence, how);
    }
    if let Some(encoding) = stated {
        return Chosen::new(encoding, 0, "stated", How::Stated);
    }
    if let Some(encoding) = turned_to {
        let evidence = "the first bytes over 127 are no UTF-8, and this encoding fits them best";
        return Chosen::new(encoding, 0, evidence, How::Guessed);
    }
    if let Some(encoding) = utf16(head) {
        let evidence = "every other byte is zero, as with Latin letters in UTF-16";
        return Chosen::new(encoding, 0, evidence, How::Guessed);
    }
    if head.is_ascii() && !head.contains(&0x1B) {
        let evidence = match is_whole {
            true => "all bytes are ASCII, which is the same in UTF-8",
            false => "the bytes looked at are ASCII, which is the same in UTF-8",
        };
        return Chosen::new(UTF_8, 0, evidence, How::Assumed);
    }
    let (good, bad) = sequences(head, is_whole);
    if bad == 0 && good > 0 {
        return Chosen::new(UTF_8, 0, "all bytes over 127 are well-formed UTF-8", How::Certain);
    }
    // Well-formed sequences hardly ever come by chance.
    if good > bad {
        let evidence = format!("{good} sequences of bytes are well-formed UTF-8, {bad} are not");
        return Chosen::new(UTF_8, 0, evidence, How::Guessed);
    }
    let encoding = fitting(head, is_whole);
    if encoding == UTF_8 {
        return Chosen::new(encoding, 0, "nothing speaks for another encoding", How::Assumed);
    }
    let evidence = match (bad, good) {
        (0, 0) => "its escape sequences are those of this encoding".to_owned(),
        (1, _) => "1 sequence of bytes is no UTF-8, and this encoding fits it best".to_owned(),
        _ => format!("{bad} sequences of bytes are no UTF-8, and this encoding fits them best"),
    };
    let is_doubtful = (1..=FEW).contains(&bad);
    Chosen { is_doubtful, ..Chosen::new(encoding, 0, evidence, How::Guessed) }
}

/// Whether a stated encoding means the marked one: UTF-16 without a word of its order.
fn is_kin(stated: &'static Encoding, marked: &'static Encoding) -> bool {
    let is_utf16 = |encoding: &'static Encoding| encoding == UTF_16LE || encoding == UTF_16BE;
    is_utf16(stated) && is_utf16(marked)
}

/// The encoding, other than UTF-8, that fits the bytes best.
pub(crate) fn fitting(bytes: &[u8], is_whole: bool) -> &'static Encoding {
    // ASCII before the first other byte says nothing, and a few thousand lines say enough.
    let first = bytes.iter().position(|byte| !byte.is_ascii() || *byte == 0x1B).unwrap_or(0);
    let from = first.saturating_sub(256);
    let piece = bytes.get(from..bytes.len().min(from + MOST_FITTED)).unwrap_or_default();
    let is_whole = is_whole && from + piece.len() == bytes.len();
    let mut detector = chardetng::EncodingDetector::new(chardetng::Iso2022JpDetection::Allow);
    detector.feed(piece, is_whole);
    detector.guess(None, chardetng::Utf8Detection::Deny)
}

/// How many sequences beyond ASCII are well-formed UTF-8, and how many are not. One that is cut off at the end
/// is neither, unless the text ends there.
fn sequences(bytes: &[u8], is_whole: bool) -> (usize, usize) {
    let (mut good, mut bad) = (0, 0);
    let mut last: &[u8] = &[];
    for chunk in bytes.utf8_chunks() {
        good += chunk.valid().chars().filter(|c| !c.is_ascii()).count();
        bad += usize::from(!chunk.invalid().is_empty());
        last = chunk.invalid();
    }
    let is_cut = std::str::from_utf8(last).is_err_and(|error| error.error_len().is_none());
    (good, bad - usize::from(is_cut && !is_whole))
}

/// UTF-16 without a mark: Latin letters have a zero beside each.
fn utf16(head: &[u8]) -> Option<&'static Encoding> {
    let sample = head.get(..head.len().min(4096)).unwrap_or_default();
    let zeros = |parity: usize| sample.iter().skip(parity).step_by(2).filter(|&&byte| byte == 0).count();
    let (even, odd) = (zeros(0), zeros(1));
    let most = sample.len() / 2;
    if sample.len() < 4 || (even + odd) * 3 < sample.len() {
        None
    } else if odd * 10 >= most * 6 && even * 10 < odd {
        Some(UTF_16LE)
    } else if even * 10 >= most * 6 && odd * 10 < even {
        Some(UTF_16BE)
    } else {
        None
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn name(bytes: &[u8]) -> (&'static str, How) {
        let chosen = choose(bytes, true, None, None);
        (chosen.encoding.name(), chosen.how)
    }

    #[test]
    fn encodings_are_known_by_what_proves_them() {
        let utf16 = |text: &str, little: bool| -> Vec<u8> {
            let units = text.encode_utf16();
            units.flat_map(|unit| if little { unit.to_le_bytes() } else { unit.to_be_bytes() }).collect()
        };
        let text = "tag_no,site,notes\nHT-0001,W07,Hello there\n";
        assert_eq!(name(text.as_bytes()), ("UTF-8", How::Assumed));
        assert_eq!(name("Ärger,Öl\n".as_bytes()), ("UTF-8", How::Certain));
        assert_eq!(name("\u{FEFF}a,b\n".as_bytes()), ("UTF-8", How::Certain));
        assert_eq!(name(&utf16(text, true)), ("UTF-16LE", How::Guessed));
        assert_eq!(name(&utf16(text, false)), ("UTF-16BE", How::Guessed));
        assert_eq!(name(&utf16("\u{FEFF}ä", true)), ("UTF-16LE", How::Certain));
        assert_eq!(name("Ä b ü ß é ñ ø å".as_bytes().get(..20).unwrap()).0, "UTF-8");
        assert_eq!(
            name(b"name,town\nM\xFCller,K\xF6ln\nStra\xDFe,D\xFCren\n"),
            ("windows-1252", How::Guessed)
        );
        // A few spoilt bytes do not make a text another one.
        assert_eq!(name("é è ü\u{0}".replace('\0', "").as_bytes()).1, How::Certain);
        assert_eq!(name(b"\xC3\xA9\xC3\xA8\xC3\xBC \xE9"), ("UTF-8", How::Guessed));
    }

    #[test]
    fn a_table_in_many_languages_and_encodings_is_read_back() {
        // A heading row and a few rows, as files come: mostly digits and ASCII around a few words.
        let table = |words: [&str; 6]| {
            let rows = (1..=8).map(|n| format!("{n:04};{};2024-05-{n:02};{n},5\r\n", words[n % 6]));
            format!("nr;name;date;fee\r\n{}", rows.collect::<String>())
        };
        let languages: [(&str, &[&str], [&str; 6]); 12] = [
            ("German", &["windows-1252"], ["Müller", "Straße", "Köln", "Größe", "für", "Übung"]),
            ("French", &["windows-1252"], ["forêt", "été", "Besançon", "cœur", "à côté", "œuvre"]),
            ("Spanish", &["windows-1252"], ["año", "Núñez", "corazón", "¿qué?", "Málaga", "jardín"]),
            ("Danish", &["windows-1252"], ["Ærø", "Åse", "sø", "træ", "Århus", "bøg"]),
            (
                "Polish",
                &["windows-1250", "iso-8859-2"],
                ["Łódź", "żółć", "Gdańsk", "święto", "ćma", "książka"],
            ),
            (
                "Czech",
                &["windows-1250", "iso-8859-2"],
                ["Plzeň", "příliš", "žluťoučký", "kůň", "Dvořák", "ďábel"],
            ),
            ("Russian", &["windows-1251", "koi8-r"], ["Москва", "улица", "дерево", "Иван", "берёза", "клён"]),
            ("Greek", &["windows-1253"], ["Αθήνα", "οδός", "δέντρο", "Γιώργος", "ελιά", "πεύκο"]),
            ("Turkish", &["windows-1254"], ["İstanbul", "ağaç", "çınar", "Işık", "gülşen", "köşk"]),
            (
                "Japanese",
                &["shift_jis", "euc-jp"],
                ["東京都", "桜の木", "公園", "山田太郎", "カエデ", "イチョウ"],
            ),
            ("Chinese", &["gbk", "big5"], ["北京", "公園", "大樹", "街道", "中山路", "木"]),
            ("Korean", &["euc-kr"], ["서울", "나무", "공원", "김철수", "은행나무", "거리"]),
        ];
        for (language, encodings, words) in languages {
            let text = table(words);
            assert_eq!(choose(text.as_bytes(), true, None, None).encoding, UTF_8, "{language}");
            for label in encodings {
                let encoding = Encoding::for_label(label.as_bytes()).unwrap();
                let (bytes, _, unmappable) = encoding.encode(&text);
                assert!(!unmappable, "{language} in {label}");
                let found = choose(&bytes, true, None, None);
                assert_eq!(found.how, How::Guessed);
                let (read, _) = found.encoding.decode_without_bom_handling(&bytes);
                assert_eq!(read, text, "{language} in {label}, taken for {}", found.encoding.name());
            }
        }
    }

    #[test]
    fn a_sequence_cut_off_at_the_end_of_the_sample_is_no_fault() {
        let bytes = "ä€".as_bytes();
        assert_eq!(sequences(&bytes[..4], false), (1, 0));
        assert_eq!(sequences(&bytes[..4], true), (1, 1));
        assert_eq!(sequences(b"\xE9a", false), (0, 1));
    }
}
