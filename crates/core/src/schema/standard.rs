//! Standard lists: ISO 3166-1 countries, ISO 4217 currencies, ISO 639-1 languages, each with the names in use.

use super::raw::RawStandard;
use crate::value::PickValue;
use iso_currency::IntoEnumIterator as _;

/// Names that people use beside those of ISO 3166-1, by code.
const COUNTRIES: [(&str, &[&str]); 34] = [
    ("GB", &["UK", "United Kingdom", "Great Britain", "Britain", "U.K."]),
    ("US", &["USA", "United States", "U.S.A.", "U.S.", "America"]),
    ("NL", &["Netherlands", "Holland", "The Netherlands"]),
    ("CZ", &["Czech Republic", "Czechia"]),
    ("RU", &["Russia", "Russian Federation"]),
    ("KR", &["South Korea", "Republic of Korea", "Korea, South"]),
    ("KP", &["North Korea", "Korea, North"]),
    ("VN", &["Vietnam"]),
    ("IR", &["Iran"]),
    ("SY", &["Syria"]),
    ("LA", &["Laos"]),
    ("BO", &["Bolivia"]),
    ("VE", &["Venezuela"]),
    ("TZ", &["Tanzania"]),
    ("MD", &["Moldova"]),
    ("MK", &["North Macedonia", "Macedonia"]),
    ("TW", &["Taiwan"]),
    ("TR", &["Turkey", "Türkiye"]),
    ("CI", &["Ivory Coast", "Cote d'Ivoire"]),
    ("CV", &["Cape Verde"]),
    ("SZ", &["Swaziland", "Eswatini"]),
    ("MM", &["Burma", "Myanmar"]),
    ("BN", &["Brunei"]),
    ("CD", &["DR Congo", "Democratic Republic of the Congo", "Congo (Kinshasa)"]),
    ("CG", &["Congo (Brazzaville)", "Republic of the Congo"]),
    ("PS", &["Palestine"]),
    ("VA", &["Vatican", "Vatican City"]),
    ("FK", &["Falkland Islands"]),
    ("AE", &["UAE", "United Arab Emirates", "Emirates"]),
    ("PH", &["Philippines", "The Philippines"]),
    ("BS", &["Bahamas", "The Bahamas"]),
    ("GM", &["Gambia", "The Gambia"]),
    ("DE", &["Deutschland"]),
    ("IE", &["Republic of Ireland", "Eire"]),
];

/// The values of a standard list.
pub(super) fn values(list: RawStandard) -> Vec<PickValue> {
    match list {
        RawStandard::Iso3166 => countries(false),
        RawStandard::Iso3166Alpha3 => countries(true),
        RawStandard::Iso4217 => iso_currency::Currency::iter()
            .map(|currency| PickValue {
                code: currency.code().to_owned(),
                label: Some(currency.name().to_owned()),
                ..PickValue::default()
            })
            .collect(),
        RawStandard::Iso639 => isolang::languages()
            .filter_map(|language| {
                let also = vec![language.to_639_3().to_owned()];
                let label = Some(language.to_name().to_owned());
                Some(PickValue { code: language.to_639_1()?.to_owned(), label, also, retired: false })
            })
            .collect(),
    }
}

fn countries(alpha3: bool) -> Vec<PickValue> {
    let country = |country: &rust_iso3166::CountryCode| {
        let (code, other) =
            if alpha3 { (country.alpha3, country.alpha2) } else { (country.alpha2, country.alpha3) };
        let mut also = vec![other.to_owned()];
        // `Netherlands (the)`, `Bolivia (Plurinational State of)`
        if let Some((short, _)) = country.name.split_once(" (") {
            also.push(short.to_owned());
        }
        let used = COUNTRIES.iter().find(|known| known.0 == country.alpha2).map(|known| known.1);
        also.extend(used.into_iter().flatten().map(|name| (*name).to_owned()));
        also.dedup();
        PickValue { code: code.to_owned(), label: Some(country.name.to_owned()), also, retired: false }
    };
    rust_iso3166::ALL.iter().map(country).collect()
}
