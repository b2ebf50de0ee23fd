#include "part/shapes/placement.hpp"

#include <numbers>

namespace dotsift {

namespace {

Affine rotation(double angle, const std::array<Vec2, 1>& about) {
    return Affine::rotation(angle, about[0]);
}
AffineIn<3> rotation(double angle, const std::array<Vec3, 2>& about) {
    return AffineIn<3>::rotation(angle, about);
}
Affine reflection(const std::array<Vec2, 2>& line) {
    return Affine::mirror(line[0], line[1] - line[0]);
}
AffineIn<3> reflection(const std::array<Vec3, 3>& plane) {
    return AffineIn<3>::mirror(plane);
}

}  // namespace

template <int D>
std::vector<AffineIn<D>> copies_of(const PlacementSpecIn<D>& p) {
    using Map = AffineIn<D>;
    Map base;
    if (p.mirror) base = reflection(*p.mirror);
    if (p.rotate != 0) base = rotation(p.rotate, p.about).after(base);
    base = Map::move(p.move).after(base);
    std::vector<Map> copies;
    const auto count = static_cast<double>(p.repeat[0]);
    for (std::int64_t j = 0; j < p.repeat[1]; ++j)
        for (std::int64_t i = 0; i < p.repeat[0]; ++i) {
            const auto k = static_cast<double>(i);
            if (i == 0 && j == 0)
                copies.push_back(base);
            else if (p.around)
                copies.push_back(rotation(k * p.every.value_or(2 * std::numbers::pi / count), *p.around).after(base));
            else
                copies.push_back(Map::move(p.step[0] * k + p.step[1] * static_cast<double>(j)).after(base));
        }
    return copies;
}
template std::vector<Affine> copies_of(const PlacementSpec&);
template std::vector<AffineIn<3>> copies_of(const PlacementSpecIn<3>&);

std::string numbered(const std::string& name, std::size_t number) {
    std::string text = name;
    const auto mark = text.find('#');
    if (mark != std::string::npos) text.replace(mark, 1, std::to_string(number));
    return text;
}

}  // namespace dotsift
