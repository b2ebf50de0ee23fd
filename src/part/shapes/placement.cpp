#include "part/shapes/placement.hpp"

#include <numbers>

namespace dotsift {

std::vector<Affine> copies_of(const PlacementSpec& p) {
    Affine base;
    if (p.mirror) base = Affine::mirror(p.mirror->from, p.mirror->to - p.mirror->from);
    if (p.rotate != 0) base = Affine::rotation(p.rotate, p.about).after(base);
    base = Affine::move(p.move).after(base);
    std::vector<Affine> copies;
    const auto count = static_cast<double>(p.repeat[0]);
    for (std::int64_t j = 0; j < p.repeat[1]; ++j)
        for (std::int64_t i = 0; i < p.repeat[0]; ++i) {
            const auto k = static_cast<double>(i);
            if (i == 0 && j == 0)
                copies.push_back(base);
            else if (p.around)
                copies.push_back(
                    Affine::rotation(k * p.every.value_or(2 * std::numbers::pi / count), *p.around).after(base));
            else
                copies.push_back(Affine::move(p.step[0] * k + p.step[1] * static_cast<double>(j)).after(base));
        }
    return copies;
}

std::string numbered(const std::string& name, std::size_t number) {
    std::string text = name;
    const auto mark = text.find('#');
    if (mark != std::string::npos) text.replace(mark, 1, std::to_string(number));
    return text;
}

}  // namespace dotsift
