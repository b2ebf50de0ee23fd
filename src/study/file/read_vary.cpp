#include "study/file/read_vary.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <optional>

namespace dotsift {

namespace {

constexpr std::int64_t most_runs = 10'000;

std::string quoted(const std::string& text) {
    std::string out = "\"";
    for (const char c : text) {
        if (c == '"' || c == '\\') out += '\\';
        out += c;
    }
    return out + "\"";
}

/// A number and what stands behind it.
struct Amount {
    double value = 0;
    std::string unit;
};

std::optional<Amount> amount_of(const toml::node& node) {
    if (const auto number = node.value<double>(); number && node.is_number()) return Amount{*number, {}};
    const auto text = node.value_exact<std::string>();
    if (!text) return {};
    Amount a;
    const auto [end, code] = std::from_chars(text->data(), text->data() + text->size(), a.value);
    if (code != std::errc()) return {};
    a.unit = std::string(end, text->data() + text->size());
    a.unit.erase(0, a.unit.find_first_not_of(' ') == std::string::npos ? a.unit.size() : a.unit.find_first_not_of(' '));
    return a;
}

class VaryReader {
  public:
    VaryReader(const Section& s, const toml::table* variables) : s_(s), variables_(variables) {}

    VarySpec read(const std::string& name) {
        VarySpec out;
        out.name = name;
        out.where = s_.where();
        out.together = s_.flag("together").value_or(false);
        const auto* values = s_.table("values");
        if (!values || values->empty()) {
            if (!values && s_.has("values")) return out;
            s_.missing("values", "as in: values = { fillet = [\"2 mm\", \"3 mm\"] }");
            return out;
        }
        for (const auto& [key, node] : *values) {
            VariedValue v;
            v.variable = std::string(key.str());
            if (!variables_ || !variables_->contains(v.variable)) {
                s_.fault("values", fmt::format("names \"{}\", which is no variable of the study", v.variable),
                         fmt::format("add {} to [variables]", v.variable));
                continue;
            }
            v.literals = literals(v.variable, node);
            if (!v.literals.empty()) out.values.push_back(std::move(v));
        }
        // In the order of the file, as the one that changes first is the last.
        std::stable_sort(out.values.begin(), out.values.end(), [&](const VariedValue& a, const VariedValue& b) {
            return values->find(a.variable)->first.source().begin < values->find(b.variable)->first.source().begin;
        });
        check_number_of_runs(out);
        return out;
    }

  private:
    std::vector<std::string> literals(const std::string& variable, const toml::node& node) const {
        const auto wrong = [&](const std::string& what) {
            s_.fault("values", fmt::format("of {}: {}", variable, what),
                     fmt::format("as in {0} = [\"2 mm\", \"3 mm\"] or {0} = {{ from = \"2 mm\", to = \"5 mm\", "
                                 "count = 4 }}",
                                 variable));
            return std::vector<std::string>();
        };
        std::vector<std::string> out;
        if (const auto* list = node.as_array()) {
            for (const auto& one : *list) {
                if (const auto text = one.value_exact<std::string>())
                    out.push_back(quoted(*text));
                else if (one.is_number())
                    out.push_back(fmt::format("{}", *one.value<double>()));
                else
                    return wrong("a value is neither a number nor a text");
            }
            return out.empty() ? wrong("the list is empty") : out;
        }
        const auto* range = node.as_table();
        if (!range) return wrong("neither a list nor a range");
        const auto *from = range->get("from"), *to = range->get("to"), *count = range->get("count");
        if (!from || !to || !count || range->size() != 3) return wrong("a range has from, to and count");
        const auto a = amount_of(*from), b = amount_of(*to);
        const auto n = count->value_exact<std::int64_t>();
        if (!a || !b || a->unit != b->unit) return wrong("from and to are to be numbers with the same unit");
        if (!n || *n < 2 || *n > most_runs) return wrong("count is to be a whole number, at least 2");
        for (std::int64_t k = 0; k < *n; ++k) {
            const double share = static_cast<double>(k) / static_cast<double>(*n - 1);
            const std::string number = fmt::format("{:.12g}", a->value + (b->value - a->value) * share);
            out.push_back(a->unit.empty() ? number : quoted(number + " " + a->unit));
        }
        return out;
    }

    void check_number_of_runs(const VarySpec& spec) const {
        double runs = 1;
        for (const auto& v : spec.values) {
            runs *= static_cast<double>(v.literals.size());
            if (spec.together && v.literals.size() != spec.values.front().literals.size())
                s_.fault("together",
                         fmt::format("goes with lists of the same length, but {} has {} values and {} has {}",
                                     spec.values.front().variable, spec.values.front().literals.size(), v.variable,
                                     v.literals.size()));
        }
        if (!spec.together && runs > static_cast<double>(most_runs))
            s_.fault("values", fmt::format("have {:.3g} combinations, and at most {} are run", runs, most_runs));
    }

    const Section& s_;
    const toml::table* variables_;
};

}  // namespace

std::vector<std::vector<std::size_t>> VarySpec::runs() const {
    std::vector<std::vector<std::size_t>> out;
    if (values.empty()) return out;
    std::vector<std::size_t> at(values.size(), 0);
    if (together) {
        for (std::size_t k = 0; k < values.front().literals.size(); ++k) out.emplace_back(values.size(), k);
        return out;
    }
    for (;;) {
        out.push_back(at);
        std::size_t k = values.size();
        while (k > 0 && ++at[k - 1] == values[k - 1].literals.size()) at[--k] = 0;
        if (k == 0) return out;
    }
}

void read_vary(const Section& top, Study& study) {
    const auto* variables = top.table("variables");
    each_named(top, "vary", [&](const Section& s, const std::string& name) {
        study.vary.push_back(VaryReader(s, variables).read(name));
    });
}

std::string with_values(const std::string& text, const std::vector<std::pair<std::string, std::string>>& values) {
    const toml::table root = toml::parse(text);
    std::vector<std::size_t> line{0};  // where each begins
    for (std::size_t i = 0; i < text.size(); ++i)
        if (text[i] == '\n') line.push_back(i + 1);
    // Columns are counted in letters, of which UTF-8 may need several bytes.
    const auto offset = [&](const toml::source_position& p) {
        std::size_t at = line[p.line - 1];
        for (std::uint32_t column = 1; column < p.column; ++column) {
            ++at;
            while (at < text.size() && (static_cast<unsigned char>(text[at]) & 0xC0U) == 0x80U) ++at;
        }
        return at;
    };
    struct Piece {
        std::size_t begin, end;
        const std::string* value;
    };
    std::vector<Piece> pieces;
    for (const auto& [name, value] : values) {
        const auto* node = root["variables"].as_table()->get(name);
        pieces.push_back({offset(node->source().begin), offset(node->source().end), &value});
    }
    std::sort(pieces.begin(), pieces.end(), [](const Piece& a, const Piece& b) { return a.begin > b.begin; });
    std::string out = text;
    for (const auto& p : pieces) out.replace(p.begin, p.end - p.begin, *p.value);
    return out;
}

}  // namespace dotsift
