#pragma once
// One table of a study file, read key by key with every fault noted. Only the reader of study files uses this.

#define TOML_HEADER_ONLY 1
// Some broken texts fail the library's asserts, which are on without NDEBUG only, before it answers them with an error.
#define TOML_ASSERT(condition) static_cast<void>(0)
#include <toml++/toml.h>

#include <array>
#include <functional>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "study/diagnostics.hpp"
#include "study/formula.hpp"
#include "study/units.hpp"

namespace dotsift {

inline Where where_of(const toml::node& node) {
    return {static_cast<int>(node.source().begin.line), static_cast<int>(node.source().begin.column)};
}

inline Where where_of(const toml::key& key) {
    return {static_cast<int>(key.source().begin.line), static_cast<int>(key.source().begin.column)};
}

/// What the values of a study file are read against: its units and variables.
struct ReadingContext {
    Problems* problems = nullptr;
    UnitSystem units;
    std::map<std::string, Formula> variables;
    std::shared_ptr<const std::vector<ValueTable>> tables;
    bool in_space = false;  ///< of a solid: formulas know z and nz, vectors have three components
    std::map<std::pair<std::string, std::string>, Where>* places = nullptr;  ///< to be noted there, as Study has them
};

/// Turns a number, "number unit" or formula into a formula in the study's units. Nothing, with the fault noted, if it
/// is none of these. `expected` is told in the message.
std::optional<Formula> read_formula(const ReadingContext& context, const toml::node& node, Dimension expected,
                                    const std::string& label, bool place_allowed);

/// The same of one unknown with a name of its own, such as the temperature T.
std::optional<Formula> read_formula_of(const ReadingContext& context, const toml::node& node, Dimension expected,
                                       const std::string& label, const std::string& unknown);

class Section {
  public:
    /// `kind` is the section's name in the key table, `shown` the one in messages.
    Section(const ReadingContext& context, const toml::table& table, std::string kind, std::string shown);

    [[nodiscard]] bool has(std::string_view key) const { return table_.contains(key); }
    [[nodiscard]] Where where() const { return where_of(table_); }
    [[nodiscard]] Where where(std::string_view key) const;
    [[nodiscard]] const std::string& shown() const { return shown_; }
    [[nodiscard]] const toml::node* node(std::string_view key) const { return table_.get(key); }
    [[nodiscard]] const toml::table& content() const { return table_; }

    void fault(std::string_view key, std::string what, std::string remedy = {}) const;
    /// Notes that a required key is missing.
    void missing(std::string_view key, std::string remedy = {}) const;
    /// The position of the one of these keys that is there. None and more than one are faults.
    [[nodiscard]] std::optional<std::size_t> one_of(std::span<const std::string> keys, std::string remedy = {}) const;

    [[nodiscard]] std::optional<double> number(std::string_view key, Dimension dimension) const;
    [[nodiscard]] std::optional<double> positive(std::string_view key, Dimension dimension) const;
    /// A share of something, "2 %" or 0.02. A bare number that can only be meant as percent is a fault.
    [[nodiscard]] std::optional<double> share(std::string_view key) const;
    [[nodiscard]] std::optional<std::int64_t> whole(std::string_view key, std::int64_t least) const;
    template <int D>
    [[nodiscard]] std::optional<Vec<D>> point_in(std::string_view key) const;
    template <int D>
    [[nodiscard]] std::vector<Vec<D>> points_in(std::string_view key) const;
    /// So many points in brackets.
    template <int D, std::size_t N>
    [[nodiscard]] std::optional<std::array<Vec<D>, N>> exactly(std::string_view key) const;
    [[nodiscard]] std::optional<Vec2> point(std::string_view key) const { return point_in<2>(key); }
    [[nodiscard]] std::vector<Vec2> points(std::string_view key) const { return points_in<2>(key); }
    [[nodiscard]] std::optional<std::string> text(std::string_view key) const;
    /// A string out of a list; the position in the list.
    [[nodiscard]] std::optional<std::size_t> choice(std::string_view key, std::span<const std::string> allowed) const;
    /// One string out of a list, or an array of such; their positions in the list.
    [[nodiscard]] std::vector<std::size_t> choices(std::string_view key, std::span<const std::string> allowed) const;
    /// One string or an array of them.
    [[nodiscard]] std::vector<std::string> names(std::string_view key) const;
    [[nodiscard]] std::optional<Formula> formula(std::string_view key, Dimension dimension, bool place_allowed) const;
    /// Two in brackets, in space three.
    [[nodiscard]] std::optional<std::array<Formula, 3>> formulas(std::string_view key, Dimension dimension) const;
    /// One number, or at least `least` and at most `most` in brackets; one stands alone only if least is 1.
    [[nodiscard]] std::optional<std::vector<double>> numbers(std::string_view key, std::size_t least, std::size_t most,
                                                             Dimension dimension) const;
    /// One whole number or two in brackets.
    /// Brackets that hold brackets, as those of two vectors.
    [[nodiscard]] bool holds_lists(std::string_view key) const;
    [[nodiscard]] std::optional<std::array<std::int64_t, 2>> one_or_two_wholes(std::string_view key) const;
    [[nodiscard]] std::optional<std::array<Vec2, 2>> two_points(std::string_view key) const {
        return exactly<2, 2>(key);
    }
    /// One name for each of two things.
    [[nodiscard]] std::optional<std::array<std::string, 2>> two_names(std::string_view key) const;
    [[nodiscard]] std::optional<bool> flag(std::string_view key) const;
    [[nodiscard]] const ReadingContext& context() const { return context_; }
    /// A sub-table, or nothing with the fault noted if it is of another kind.
    [[nodiscard]] const toml::table* table(std::string_view key) const;

  private:
    [[nodiscard]] std::string label(std::string_view key) const;
    void note_place(const std::string& what, const toml::node& node) const;
    [[nodiscard]] std::optional<std::size_t> choice_of(std::string_view key, const std::string& value,
                                                       std::span<const std::string> allowed) const;

    const ReadingContext& context_;
    const toml::table& table_;
    std::string kind_, shown_;
};

/// Holds a control character, which in a name or title would come out of nowhere in tables, files and terminals.
bool has_control(const std::string& text);

/// Names become file names and words in formulas: letters a to z, digits and _, beginning with no digit.
bool is_proper_name(std::string_view name);

/// Calls act(section, name) for each [parent.key.NAME], in the order of the file. Names and kinds that are wrong are
/// noted.
void each_named(const Section& parent, const std::string& key,
                const std::function<void(const Section&, const std::string&)>& act);

}  // namespace dotsift
