#pragma once
// Pictures of element quality: where the poor elements are, and how the measures are spread.

#include "evidence/pictures/picture.hpp"
#include "quality/quality.hpp"

namespace dotsift {

/// Elements by grade, the worst ones numbered and listed.
PictureFiles draw_quality_map(const Mesh& mesh, const QualityReport& report, const std::string& title,
                              const std::string& length_unit);

/// The same of a solid, in a section through the worst element.
PictureFiles draw_quality_map(const SolidMesh& mesh, const QualityReportIn<3>& report, const std::string& title,
                              const std::string& length_unit);

/// A histogram of every measure, with the limits that hold for most elements.
template <int D>
PictureFiles draw_histograms(const MeshIn<D>& mesh, const QualityReportIn<D>& report,
                             const std::vector<QualitySpec>& limits, const std::string& title);

}  // namespace dotsift
