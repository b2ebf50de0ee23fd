#include "evidence/drawing/colour.hpp"

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <vector>

namespace dotsift {

namespace {

double to_linear(double v) {
    return v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4);
}
double to_srgb(double v) {
    return v <= 0.0031308 ? 12.92 * v : 1.055 * std::pow(v, 1 / 2.4) - 0.055;
}

/// Oklab (Ottosson 2020): equal steps look equally large.
struct Lab {
    double l, a, b;
};

Lab to_lab(const Colour& c) {
    const double r = to_linear(c.r), g = to_linear(c.g), b = to_linear(c.b);
    const double l = std::cbrt(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b);
    const double m = std::cbrt(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b);
    const double s = std::cbrt(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
    return {0.2104542553 * l + 0.7936177850 * m - 0.0040720468 * s,
            1.9779984951 * l - 2.4285922050 * m + 0.4505937099 * s,
            0.0259040371 * l + 0.7827717662 * m - 0.8086757660 * s};
}

Colour from_lab(const Lab& c) {
    const double l = std::pow(c.l + 0.3963377774 * c.a + 0.2158037573 * c.b, 3),
                 m = std::pow(c.l - 0.1055613458 * c.a - 0.0638541728 * c.b, 3),
                 s = std::pow(c.l - 0.0894841775 * c.a - 1.2914855480 * c.b, 3);
    const auto clip = [](double v) { return std::clamp(to_srgb(std::max(v, 0.0)), 0.0, 1.0); };
    return {clip(4.0767416621 * l - 3.3077115913 * m + 0.2309699292 * s),
            clip(-1.2684380046 * l + 2.6097574011 * m - 0.3413193965 * s),
            clip(-0.0041960863 * l - 0.7034186147 * m + 1.7076147010 * s)};
}

/// Anchors with the lightness made to run evenly from the first to the last.
ColourTable make_table(const std::vector<Colour>& anchors) {
    std::vector<Lab> lab(anchors.size());
    std::transform(anchors.begin(), anchors.end(), lab.begin(), to_lab);
    ColourTable table;
    for (std::size_t k = 0; k < table.size(); ++k) {
        const double t = static_cast<double>(k) / (static_cast<double>(table.size()) - 1);
        const double at = t * (static_cast<double>(lab.size()) - 1);
        const auto i = std::min(static_cast<std::size_t>(at), lab.size() - 2);
        const double f = at - static_cast<double>(i);
        table[k] = from_lab({lab.front().l + (lab.back().l - lab.front().l) * t,
                             lab[i].a + (lab[i + 1].a - lab[i].a) * f, lab[i].b + (lab[i + 1].b - lab[i].b) * f});
    }
    return table;
}

}  // namespace

ColourLookup::ColourLookup(ColourMap map) {
    static const ColourTable depth = make_table({{0.07, 0.13, 0.29},
                                                 {0.05, 0.31, 0.46},
                                                 {0.10, 0.51, 0.53},
                                                 {0.43, 0.69, 0.52},
                                                 {0.80, 0.82, 0.55},
                                                 {0.99, 0.95, 0.80}});
    static const ColourTable heat = make_table(
        {{0.98, 0.97, 0.94}, {0.97, 0.85, 0.60}, {0.92, 0.62, 0.30}, {0.74, 0.33, 0.20}, {0.38, 0.10, 0.14}});
    static const ColourTable below = make_table({{0.96, 0.96, 0.95}, {0.55, 0.72, 0.84}, {0.08, 0.27, 0.47}}),
                             above = make_table({{0.96, 0.96, 0.95}, {0.88, 0.68, 0.45}, {0.47, 0.22, 0.07}});
    if (map == ColourMap::swing) below_ = &below;
    table_ = map == ColourMap::swing ? &above : map == ColourMap::depth ? &depth : &heat;
}

const Colour& ColourLookup::operator()(double t) const {
    const auto entry = [](double share) {
        return static_cast<std::size_t>(std::isnan(share) ? 0.0 : std::clamp(share, 0.0, 1.0) * 255 + 0.5);
    };
    if (!below_) return (*table_)[entry(t)];
    return t < 0.5 ? (*below_)[entry(1 - 2 * t)] : (*table_)[entry(2 * t - 1)];
}

const Colour& colour_at(ColourMap map, double t) {
    return ColourLookup(map)(t);
}

std::uint32_t packed(const Colour& c) {
    const auto byte = [](double v) { return static_cast<std::uint32_t>(std::lround(std::clamp(v, 0.0, 1.0) * 255)); };
    return 0xFF000000U | byte(c.r) << 16U | byte(c.g) << 8U | byte(c.b);
}

Colour category(int k) {
    static constexpr std::array<Colour, 7> colours{{{0.000, 0.447, 0.698},
                                                    {0.835, 0.369, 0.000},
                                                    {0.000, 0.620, 0.451},
                                                    {0.800, 0.475, 0.655},
                                                    {0.902, 0.624, 0.000},
                                                    {0.337, 0.706, 0.914},
                                                    {0.25, 0.25, 0.25}}};
    const auto n = static_cast<std::size_t>(k);
    const Colour c = colours[n % colours.size()];
    // As it is, then darker, then lighter.
    constexpr double mixed = 0.45;
    const std::size_t round = n / colours.size() % 3;
    if (round == 0) return c;
    const double towards = round == 1 ? 0 : 1;
    const auto mix = [&](double v) { return v + (towards - v) * mixed; };
    return {mix(c.r), mix(c.g), mix(c.b)};
}

}  // namespace dotsift
