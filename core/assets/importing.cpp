#include "core/assets/importing.h"

#include <assimp/BaseImporter.h>
#include <assimp/Importer.hpp>
#include <assimp/importerdesc.h>

#include <sstream>

namespace ember {

void keep_only(Assimp::Importer& importer, const std::set<std::string>& endings) {
    for (size_t i = importer.GetImporterCount(); i-- > 0;) {
        const aiImporterDesc* about = importer.GetImporterInfo(i);
        std::istringstream own(about != nullptr ? about->mFileExtensions : "");
        bool is_wanted = false;
        for (std::string ending; own >> ending;) {
            is_wanted = is_wanted || endings.contains(ending);
        }
        if (!is_wanted) {
            Assimp::BaseImporter* unwanted = importer.GetImporter(i);
            importer.UnregisterLoader(unwanted);
            delete unwanted;
        }
    }
}

} // namespace ember
