"""A pose being kept: the picture's frame, what goes in, names and warnings.

- ``batch_list``: BatchRow, BatchList
- ``batch_popup``: BatchPopup
- ``capture_bar``: CaptureBar
- ``capture_form``: small, CaptureForm
- ``capture_frame``: CaptureFrame
- ``capture_list``: CaptureList
- ``capture_panel``: CapturePanel
- ``capture_parts``: RoundedPicture, LivePicture, WarningRow
- ``capture_words``: words_of
- ``crop_popup``: CropView, CropPopup
- ``own_pictures``: OwnPictures
- ``reshoot_popup``: ReshootPopup
- ``similar_card``: SimilarCard
"""
