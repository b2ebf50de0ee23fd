#pragma once
// The colours of all pictures. Sequential maps run evenly from dark to light or light to dark, so that they read the
// same in print and for colour-blind readers; categories are the eight colours of Okabe & Ito 2008.

#include <array>
#include <cstdint>

namespace dotsift {

struct Colour {
    double r = 0, g = 0, b = 0;  ///< sRGB, 0 to 1
};

enum class ColourMap {
    depth,  ///< for values: deep blue over sea green to pale sand
    heat,   ///< for errors and sizes: near white over amber to dark red
    swing   ///< for differences: blue below, near white at zero, brown above
};

using ColourTable = std::array<Colour, 256>;

/// The colours of a map, for many places. t in [0, 1]; outside it is clamped.
class ColourLookup {
  public:
    explicit ColourLookup(ColourMap map);
    const Colour& operator()(double t) const;

  private:
    const ColourTable *table_ = nullptr, *below_ = nullptr;  ///< a swing has one for either half
};

/// The same for one.
const Colour& colour_at(ColourMap map, double t);

/// Opaque, as one 32-bit pixel.
std::uint32_t packed(const Colour& colour);

/// The k-th category colour: seven, then each darker, then each lighter; repeats after 21.
Colour category(int k);

inline constexpr Colour ink{0.12, 0.14, 0.17};
inline constexpr Colour faint{0.45, 0.48, 0.52};
inline constexpr Colour paper{1, 1, 1};

}  // namespace dotsift
