#pragma once
// Text, tables and figures one below the other on pages.

#include <functional>
#include <string>
#include <vector>

#include "evidence/drawing/canvas.hpp"
#include "evidence/drawing/view.hpp"
#include "evidence/report/table.hpp"

namespace dotsift {

struct PaperFigure {
    const PictureFiles* picture = nullptr;
    std::string caption;
};

/// Fills A4 pages from top to bottom. Lengths are points.
class Paper {
  public:
    Paper(Canvas& canvas, std::function<void()> next_page, std::string footer);
    void title(const std::string& text, const std::string& below);
    /// On the same page as the first `keep` of what follows.
    void heading(const std::string& text, double keep = 60);
    /// Broken into lines.
    void paragraph(const std::string& text, const Colour& colour = ink, double size = 9.5, bool strong = false);
    void bullet(const std::string& text);
    /// Set as small as it must be to fit; long ones go on on the next page under the same headings.
    void table(const Table& table);
    /// In two columns; one alone takes two thirds of the width.
    void figures(const std::vector<PaperFigure>& figures);
    /// Fixed lines, broken where they are too long.
    void listing(const std::string& text);
    void finish();

    static constexpr double figure_height = 170;  ///< in two columns, with its caption
    static constexpr double width = 595.28, height = 841.89;

  private:
    [[nodiscard]] double room() const;
    void need(double space);
    void next_page();
    std::vector<std::string> lines_of(const std::string& text, double size, bool strong, double width);

    Canvas& canvas_;
    std::function<void()> show_page_;
    std::string footer_;
    double y_ = 0;
    int page_ = 1;
};

}  // namespace dotsift
