#pragma once
// Everything that is wrong with a study, collected so that it can be told at once.

#include <filesystem>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "base/errors.hpp"
#include "base/vec.hpp"

namespace dotsift {

/// A position in the study file, 1-based; line 0 means "the file as a whole".
struct Where {
    int line = 0, column = 0;
};

/// The same in a file, as the place of an error.
Place place_in(const std::filesystem::path& file, const Where& where);

/// One fault of a study: where, what is wrong, and what to do about it.
struct Problem {
    Where where;
    std::string what;
    std::string remedy;
    std::vector<Vec3> spots{};  ///< of a solid: the places that the remedy numbers
};

/// The faults found so far in one study file.
class Problems {
  public:
    explicit Problems(std::string file) : file_(std::move(file)) {}
    void add(Where where, std::string what, std::string remedy = {}, std::vector<Vec3> spots = {});
    /// Worth telling, but no reason to stop.
    void warn(Where where, std::string what, std::string remedy = {});
    [[nodiscard]] std::size_t count() const { return faults_.size(); }
    [[nodiscard]] bool empty() const { return faults_.empty(); }
    [[nodiscard]] const std::string& file() const { return file_; }
    /// In the order of the file.
    [[nodiscard]] std::vector<Problem> faults() const;
    [[nodiscard]] std::vector<Problem> warnings() const;
    /// "file:line:column: error: what\n    remedy\n" for each fault, in the order of the file.
    [[nodiscard]] std::string text() const;
    /// The same for the warnings.
    [[nodiscard]] std::string warning_text() const;
    /// Throws InputError with text() as its message if there is any fault.
    void throw_if_any() const;

  private:
    std::string file_;
    std::vector<Problem> faults_, warnings_;
};

/// The candidate nearest to a misspelt word (Damerau-Levenshtein distance), or "" if none is near.
std::string nearest(std::string_view word, std::span<const std::string> candidates);

/// "a, b, c" with each item quoted.
std::string quoted_list(std::span<const std::string> items);

/// True if `name` fits `pattern`, in which * stands for any characters and ? for one.
bool fits_pattern(std::string_view name, std::string_view pattern);

/// True if `name` fits one of the patterns.
bool fits_any(std::string_view name, std::span<const std::string> patterns);

}  // namespace dotsift
