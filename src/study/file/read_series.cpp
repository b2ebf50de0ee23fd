#include "study/file/read_series.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/errors.hpp"
#include "study/file/read_quantity.hpp"

namespace dotsift {

namespace {

const std::vector<std::string> kind_names{"uniform", "local", "adaptive"};
const std::vector<std::string> strategy_names{"target", "budget", "share_of_elements", "share_of_error"};
const std::vector<std::string> indicator_names{"recovery", "residual", "energy_density", "jump", "gradient"};
constexpr double default_error_target = 0.02;

class SeriesReader {
  public:
    SeriesReader(const Section& s, const std::string& name, const Study& study) : s_(s), study_(study) {
        out_.name = name;
        out_.where = s.where();
    }

    SeriesSpec read() {
        if (!s_.has("kind")) s_.missing("kind", "as in: kind = \"uniform\"");
        const auto kind = s_.choice("kind", kind_names);
        if (kind) out_.kind = static_cast<SeriesKind>(*kind);
        const bool adaptive = out_.kind == SeriesKind::adaptive;
        if (kind) check_keys();
        if (const auto ratio = s_.number("ratio", dimension::none)) {
            if (*ratio <= 1) s_.fault("ratio", fmt::format("is {:g}, but it must be greater than 1", *ratio));
            out_.ratio = *ratio;
        }
        if (out_.kind == SeriesKind::local) read_rules();
        if (out_.kind != SeriesKind::local) read_start();
        read_strategy();
        read_limits();
        out_.most_levels =
            static_cast<int>(std::min<std::int64_t>(s_.whole("most_levels", 1).value_or(adaptive ? 8 : 4), 1000));
        out_.most_elements = s_.whole("most_elements", 1).value_or(out_.most_elements);
        out_.most_unknowns = s_.whole("most_unknowns", 1);
        out_.most_seconds = s_.positive("most_seconds", dimension::none);
        if (const auto gb = s_.positive("most_memory", dimension::none)) out_.most_memory = *gb * 1e9;
        out_.error_target = s_.share("error_target");
        out_.change_target = s_.share("change_target");
        out_.gci_target = s_.share("gci_target");
        out_.until_quantities = s_.flag("until_quantities").value_or(false);
        for (const auto* key : {"change_target", "gci_target"})
            if (s_.has(key) && study_.quantities.empty())
                s_.fault(key, "waits for quantities, but there is none", "add [quantity.NAME]");
        if (out_.until_quantities && std::none_of(study_.quantities.begin(), study_.quantities.end(),
                                                  [](const QuantitySpec& q) { return q.target.has_value(); }))
            s_.fault("until_quantities", "waits for quantities, but none has a target",
                     "give one a target, as in: target = \"1 %\"");
        if (adaptive && out_.strategy == Strategy::target && !out_.error_target && !out_.change_target &&
            !out_.gci_target && !s_.has("until_quantities")) {
            // For the quantities' targets, if there are any.
            out_.until_quantities = std::any_of(study_.quantities.begin(), study_.quantities.end(),
                                                [](const QuantitySpec& q) { return q.target.has_value(); });
            if (!out_.until_quantities) out_.error_target = default_error_target;
        }
        return std::move(out_);
    }

  private:
    /// Keys of one kind have no meaning in the others.
    void check_keys() const {
        const auto only = [&](const char* key, bool meant, const char* kinds) {
            if (s_.has(key) && !meant)
                s_.fault(key,
                         fmt::format("has no meaning for a series of kind \"{}\"",
                                     kind_names[static_cast<std::size_t>(out_.kind)]),
                         fmt::format("remove it: it belongs to {} series", kinds));
        };
        const bool adaptive = out_.kind == SeriesKind::adaptive;
        only("ratio", !adaptive, "uniform and local");
        only("start_from", out_.kind != SeriesKind::local, "uniform and adaptive");
        only("rules", out_.kind == SeriesKind::local, "local");
        for (const char* key : {"strategy", "indicator", "of", "drive", "share", "finer", "budget_elements",
                                "budget_unknowns", "coarsen", "keep_rest", "within", "smallest", "largest", "growth"})
            only(key, adaptive, "adaptive");
    }

    void read_start() {
        const auto text = s_.text("start_from");
        if (!text) return;
        if (text->ends_with(".vtu")) {
            out_.start_mesh = *text;
            return;
        }
        const std::size_t slash = text->rfind('/');
        LevelName start;
        start.series = text->substr(0, slash);
        const std::string number = slash == std::string::npos ? "" : text->substr(slash + 1);
        const bool whole = !number.empty() && number.size() < 5 &&
                           std::all_of(number.begin(), number.end(), [](char c) { return c >= '0' && c <= '9'; });
        start.level = whole ? std::stoi(number) : 0;
        if (start.level < 1) {
            s_.fault("start_from", "is no level",
                     "as in: start_from = \"coarse/2\", the second level of series coarse, or a mesh file FILE.vtu");
            return;
        }
        std::vector<std::string> known;
        for (const auto& other : study_.series) known.push_back(other.name);
        if (std::find(known.begin(), known.end(), start.series) == known.end()) {
            s_.fault("start_from", fmt::format("names series \"{}\", but no series above has that name", start.series),
                     known.empty() ? "put this series below the one it starts from"
                                   : "series above are " + quoted_list(known));
            return;
        }
        out_.start = start;
    }

    void read_rules() {
        out_.rules = s_.names("rules");
        std::vector<std::string> known;
        for (const auto& r : study_.sizes.local) known.push_back(r.name);
        for (const auto& r : study_.sizes.layers) known.push_back(r.name);
        if (!s_.has("rules"))
            s_.missing("rules", known.empty() ? "add [size.local.NAME], and name it here"
                                              : "size rules are " + quoted_list(known));
        for (const auto& r : out_.rules)
            if (std::find(known.begin(), known.end(), r) == known.end())
                s_.fault("rules", fmt::format("names \"{}\", but there is no such size rule", r),
                         known.empty() ? "add [size.local." + r + "]" : "size rules are " + quoted_list(known));
    }

    void read_strategy() {
        if (const auto k = s_.choice("strategy", strategy_names)) out_.strategy = static_cast<Strategy>(*k);
        const bool by_share = out_.strategy == Strategy::share_of_elements || out_.strategy == Strategy::share_of_error;
        if (const auto share = s_.positive("share", dimension::none)) {
            out_.share = *share;
            if (*share >= 1) s_.fault("share", "must be below 1", "as in: share = \"30 %\"");
        } else {
            out_.share = out_.strategy == Strategy::share_of_error ? 0.6 : 0.3;
        }
        if (const auto finer = s_.number("finer", dimension::none)) {
            out_.finer = *finer;
            if (*finer <= 1) s_.fault("finer", fmt::format("is {:g}, but it must be greater than 1", *finer));
        }
        if (!by_share && (s_.has("share") || s_.has("finer")))
            s_.fault(s_.has("share") ? "share" : "finer",
                     "goes with strategy = \"share_of_elements\" or "
                     "\"share_of_error\" only",
                     "remove it, or choose one of these");
        read_drive();
        read_indicator();
        out_.budget_elements = s_.whole("budget_elements", 1);
        out_.budget_unknowns = s_.whole("budget_unknowns", 1);
        const bool budget = out_.strategy == Strategy::budget;
        const int given = (s_.has("budget_elements") ? 1 : 0) + (s_.has("budget_unknowns") ? 1 : 0);
        if (budget && given != 1)
            s_.fault(given ? "budget_unknowns" : "strategy",
                     given ? "stands beside budget_elements" : "is \"budget\", but there is none",
                     given ? "give one of them" : "add budget_elements or budget_unknowns");
        if (!budget && given > 0)
            s_.fault(s_.has("budget_elements") ? "budget_elements" : "budget_unknowns",
                     "goes with strategy = \"budget\" only", "remove it, or choose that strategy");
        out_.coarsen = s_.flag("coarsen").value_or(!by_share);
        out_.within = s_.names("within");
        out_.keep_rest = s_.flag("keep_rest").value_or(false);
        if (out_.keep_rest && !by_share)
            s_.fault("keep_rest", "goes with strategy = \"share_of_elements\" or \"share_of_error\" only",
                     "remove it, or choose one of these: they say which elements change");
        if (out_.keep_rest && out_.coarsen)
            s_.fault("coarsen", "does not go with keep_rest: elements that are kept do not become larger",
                     "remove one");
    }

    void read_indicator() {
        if (s_.has("indicator")) out_.indicators.clear();
        for (const auto k : s_.choices("indicator", indicator_names)) {
            const auto indicator = static_cast<Indicator>(k);
            if (std::find(out_.indicators.begin(), out_.indicators.end(), indicator) != out_.indicators.end())
                s_.fault("indicator", fmt::format("names \"{}\" twice", indicator_names[k]));
            out_.indicators.push_back(indicator);
        }
        const bool of_field = std::any_of(out_.indicators.begin(), out_.indicators.end(), is_of_field);
        if (const auto field = s_.choice("of", field_names())) out_.indicator_field = static_cast<Field>(*field);
        if (of_field && !s_.has("of"))
            s_.missing("of", "the field whose jumps or gradient count, as in: of = \"von_mises\"");
        if (!of_field && s_.has("of"))
            s_.fault("of", "goes with indicator = \"jump\" or \"gradient\" only", "remove it, or choose one of these");
        if (is_reaction(out_.indicator_field) || is_section(out_.indicator_field) || is_energy(out_.indicator_field) ||
            out_.indicator_field == Field::turn)
            s_.fault("of", "is a sum and no field of the place", "choose a displacement, a stress or a potential");
        else if (s_.has("of") && (is_of_potential(out_.indicator_field) ? !study_.conducts() : !study_.elastic()))
            s_.fault("of", "is a field that this study does not solve for");
        if (!out_.driven_by(of_energy) && s_.has("indicator"))
            s_.fault("indicator", "stands beside drive, which names quantities only",
                     "give one of them, or add \"energy\" to drive");
        if (!std::all_of(out_.indicators.begin(), out_.indicators.end(), estimates_energy_norm) &&
            out_.strategy == Strategy::target)
            s_.fault("indicator", "measures no error, so that no target can be aimed at",
                     "choose another strategy, as in: strategy = \"share_of_elements\"");
    }

    void read_drive() {
        if (!s_.has("drive")) return;
        std::vector<std::string> known;
        for (const auto& q : study_.quantities)
            if (!q.formula) known.push_back(q.name);
        out_.drive.clear();
        for (const auto& name : s_.names("drive")) {
            if (name != of_energy && std::find(known.begin(), known.end(), name) == known.end())
                s_.fault("drive", fmt::format("is \"{}\", but no quantity of the solution has that name", name),
                         known.empty() ? "use \"energy\", or add [quantity." + name + "]"
                                       : "use \"energy\" or one of " + quoted_list(known));
            else if (out_.driven_by(name))
                s_.fault("drive", fmt::format("names \"{}\" twice", name));
            else
                out_.drive.push_back(name);
        }
    }

    void read_limits() {
        out_.smallest = s_.positive("smallest", dimension::length);
        out_.largest = s_.positive("largest", dimension::length);
        if (out_.smallest && out_.largest && *out_.smallest > *out_.largest)
            s_.fault("smallest", "is larger than largest");
        if (const auto growth = s_.number("growth", dimension::none)) {
            if (*growth <= 1) s_.fault("growth", fmt::format("is {:g}, but it must be greater than 1", *growth));
            out_.growth = *growth;
        }
    }

    const Section& s_;
    const Study& study_;
    SeriesSpec out_;
};

}  // namespace

void read_series(const Section& top, Study& study) {
    each_named(top, "series", [&](const Section& s, const std::string& name) {
        study.series.push_back(SeriesReader(s, name, study).read());
        for (auto& q : study.quantities)
            if (study.series.back().follows(q.name)) q.dual = true;
    });
}

}  // namespace dotsift
