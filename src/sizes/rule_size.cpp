#include "sizes/rule_size.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <memory>

#include "base/errors.hpp"
#include "sizes/size_table.hpp"
#include "study/input_files.hpp"

namespace dotsift {

namespace {

std::string place_text(const Vec2& p) {
    return fmt::format("({:.6g}, {:.6g})", p[0], p[1]);
}
std::string place_text(const Vec3& p) {
    return fmt::format("({:.6g}, {:.6g}, {:.6g})", p[0], p[1], p[2]);
}

}  // namespace

double within_limits(const LocalSize& rule, double size) {
    if (rule.smallest) size = std::max(size, *rule.smallest);
    if (rule.largest) size = std::min(size, *rule.largest);
    return size;
}

bool varies(const LocalSize& rule) {
    return rule.demand == SizeDemand::table || !rule.size.constant;
}

template <int D>
std::function<double(const Vec<D>&)> size_of_rule(const LocalSize& rule, const std::filesystem::path& study_file) {
    if (rule.demand == SizeDemand::table) {
        const auto table = std::make_shared<SizeTableIn<D>>(
            read_size_table<D>(read_input(study_file, rule.table), input_path(study_file, rule.table)));
        return [table, &rule](const Vec<D>& p) { return within_limits(rule, table->at(p)); };
    }
    if (rule.size.constant) {
        const double size = within_limits(rule, *rule.size.constant);
        return [size](const Vec<D>&) { return size; };
    }
    const auto formula = D == 2 ? std::make_shared<FormulaEvaluator>(rule.size, study_file.string())
                                : std::make_shared<FormulaEvaluator>(rule.size, study_file.string(), space_names());
    return [formula, study_file, &rule](const Vec<D>& p) {
        const double size = (*formula)(FormulaPlaceIn<D>{p, {}, {}});
        if (!(size > 0) && !rule.smallest)
            throw InputError(fmt::format("size.local.{}: the formula \"{}\" gives {:g} at {}", rule.name,
                                         rule.size.source, size, place_text(p)),
                             place_in(study_file, rule.where),
                             "a size must be greater than zero everywhere; smallest = ... sets a floor");
        return within_limits(rule, size);
    };
}
template std::function<double(const Vec2&)> size_of_rule<2>(const LocalSize&, const std::filesystem::path&);
template std::function<double(const Vec3&)> size_of_rule<3>(const LocalSize&, const std::filesystem::path&);

}  // namespace dotsift
