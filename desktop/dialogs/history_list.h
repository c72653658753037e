// The edits of the open effect, each with a small picture of what it led to. Going to one is one edit, back
// and forth; it stays open meanwhile.
#pragma once

#include "desktop/workbench/document.h"

#include <QDialog>
#include <QImage>

#include <map>

class QListWidget;

namespace ember {

/// What effects looked like, as long as the history has them.
class HistoryPictures {
  public:
    static constexpr QSize size = {96, 60};

    void add(const EffectPtr& effect, const QImage& picture);
    bool has(const EffectPtr& effect) const { return pictures_.contains(effect); }
    /// Null if there was no time to see it.
    QImage of(const EffectPtr& effect) const;
    void keepOnly(const History& history);

  private:
    std::map<EffectPtr, QImage> pictures_;
};

class HistoryList : public QDialog {
    Q_OBJECT

  public:
    HistoryList(Document& document, const HistoryPictures& pictures, QWidget* parent);

    QListWidget* list() const { return list_; }
    /// The edits and their pictures as they are now.
    void refresh();

  private:
    Document& document_;
    const HistoryPictures& pictures_;
    QListWidget* list_;
};

} // namespace ember
