#include "study/file/shared_formula.hpp"

#include <fmt/format.h>

#include "base/errors.hpp"

namespace dotsift {

PositiveField::PositiveField(Formula formula, std::string file, std::string what)
    : formula_(std::move(formula)), file_(std::move(file)), what_(std::move(what)) {
    idle_.push_back(std::make_unique<FormulaEvaluator>(formula_, file_));
}

double PositiveField::operator()(const Vec2& p) const {
    std::unique_ptr<FormulaEvaluator> evaluator;
    {
        const std::lock_guard lock(mutex_);
        if (!idle_.empty()) {
            evaluator = std::move(idle_.back());
            idle_.pop_back();
        }
    }
    if (!evaluator) evaluator = std::make_unique<FormulaEvaluator>(formula_, file_);
    const double value = (*evaluator)({p, {}, {}});
    if (!(value > 0)) {
        Place place = place_in(file_, formula_.where);
        place.position = p;
        throw InputError(fmt::format("{} = \"{}\" is {:g} at x = {:g}, y = {:g}, but it must be greater than 0", what_,
                                     formula_.source, value, p[0], p[1]),
                         place, "keep it above zero all over the part");
    }
    const std::lock_guard lock(mutex_);
    idle_.push_back(std::move(evaluator));
    return value;
}

}  // namespace dotsift
