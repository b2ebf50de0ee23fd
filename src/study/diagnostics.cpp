#include "study/diagnostics.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace dotsift {

namespace {

std::vector<Problem> in_file_order(std::vector<Problem> list) {
    std::stable_sort(list.begin(), list.end(), [](const Problem& a, const Problem& b) {
        return std::pair(a.where.line, a.where.column) < std::pair(b.where.line, b.where.column);
    });
    return list;
}

std::string listing(const std::string& file, const std::vector<Problem>& list, const char* kind) {
    std::string text;
    for (const auto& p : list) {
        std::string place = file;
        for (const int number : {p.where.line, p.where.column})
            if (number > 0) place += fmt::format(":{}", number);
        text += fmt::format("{}: {}: {}\n", place, kind, p.what);
        if (!p.remedy.empty()) text += fmt::format("    {}\n", p.remedy);
    }
    return text;
}

}  // namespace

Place place_in(const std::filesystem::path& file, const Where& where) {
    Place place;
    place.file = file.string();
    place.line = where.line;
    place.column = where.column;
    return place;
}

void Problems::add(Where where, std::string what, std::string remedy, std::vector<Vec3> spots) {
    faults_.push_back({where, std::move(what), std::move(remedy), std::move(spots)});
}

void Problems::warn(Where where, std::string what, std::string remedy) {
    warnings_.push_back({where, std::move(what), std::move(remedy)});
}

std::vector<Problem> Problems::faults() const {
    return in_file_order(faults_);
}
std::vector<Problem> Problems::warnings() const {
    return in_file_order(warnings_);
}
std::string Problems::text() const {
    return listing(file_, faults(), "error");
}
std::string Problems::warning_text() const {
    return listing(file_, warnings(), "warning");
}

void Problems::throw_if_any() const {
    if (faults_.empty()) return;
    Place place;
    place.file = file_;
    throw InputError(text(), place);
}

std::string nearest(std::string_view word, std::span<const std::string> candidates) {
    const auto edits = [](std::string_view a, std::string_view b) {
        std::vector<std::vector<std::size_t>> d(a.size() + 1, std::vector<std::size_t>(b.size() + 1));
        for (std::size_t i = 0; i <= a.size(); ++i) d[i][0] = i;
        for (std::size_t j = 0; j <= b.size(); ++j) d[0][j] = j;
        for (std::size_t i = 1; i <= a.size(); ++i) {
            for (std::size_t j = 1; j <= b.size(); ++j) {
                const std::size_t change = a[i - 1] == b[j - 1] ? 0 : 1;
                d[i][j] = std::min({d[i - 1][j] + 1, d[i][j - 1] + 1, d[i - 1][j - 1] + change});
                if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1])
                    d[i][j] = std::min(d[i][j], d[i - 2][j - 2] + 1);
            }
        }
        return d[a.size()][b.size()];
    };
    std::string best;
    std::size_t least = std::max<std::size_t>(2, word.size() / 3) + 1;
    for (const auto& candidate : candidates) {
        if (candidate.size() > word.size() + least || word.size() > candidate.size() + least) continue;
        const std::size_t n = edits(word, candidate);
        if (n < least) {
            least = n;
            best = candidate;
        }
    }
    return best;
}

std::string quoted_list(std::span<const std::string> items) {
    std::string text;
    for (const auto& item : items) text += fmt::format("{}\"{}\"", text.empty() ? "" : ", ", item);
    return text;
}

bool fits_pattern(std::string_view name, std::string_view pattern) {
    std::size_t n = 0, p = 0, star = std::string_view::npos, restart = 0;
    while (n < name.size()) {
        if (p < pattern.size() && pattern[p] == '*') {
            star = p++;
            restart = n;
        } else if (p < pattern.size() && (pattern[p] == '?' || pattern[p] == name[n])) {
            ++p;
            ++n;
        } else if (star != std::string_view::npos) {
            p = star + 1;
            n = ++restart;
        } else {
            return false;
        }
    }
    while (p < pattern.size() && pattern[p] == '*') ++p;
    return p == pattern.size();
}

bool fits_any(std::string_view name, std::span<const std::string> patterns) {
    return std::any_of(patterns.begin(), patterns.end(), [&](const auto& p) { return fits_pattern(name, p); });
}

}  // namespace dotsift
